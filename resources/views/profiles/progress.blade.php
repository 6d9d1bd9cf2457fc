<x-run-progress :run="$run" id="profile-progress" what="Taking it" :address="address('profile.progress', $run->id)" stop="profile.stop"
    ability="profile" />
