<x-run-progress :run="$run" id="trial-progress" what="Bringing files" :address="address('loading.trial', $run->id)" stop="loading.stop"
    ability="load" />
