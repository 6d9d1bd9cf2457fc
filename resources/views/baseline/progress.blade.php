<x-run-progress :run="$run" id="baseline-progress" :what="'Measuring '.$run->host" :address="address('baseline.run', $run->id)"
    stop="baseline.stop" ability="measure" />
