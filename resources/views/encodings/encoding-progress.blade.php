<x-run-progress :run="$run" id="lab-progress" what="Storing the sample" :address="address('encoding.show', $run->id)"
    stop="encoding.stop" />
