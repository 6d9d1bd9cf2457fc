<x-run-progress :run="$run" id="days-progress" what="Rebuilding days" :address="address('usage.days')" stop="usage.stop-days"
    ability="make-days" />
