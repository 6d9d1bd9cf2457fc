<x-run-progress :run="$run" id="tuning-progress" what="Tuning" :address="address('tuning.show', $run->id)" stop="tuning.stop" />
