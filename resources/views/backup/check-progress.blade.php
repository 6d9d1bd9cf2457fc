<x-run-progress :run="$run" id="check-progress" what="Checking a backup" :address="address('backup.progress', $run->id)" stop="backup.stop"
    ability="back-up" />
