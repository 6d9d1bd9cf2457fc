<a class="btn btn-primary" href="{{ address('job.last', [$finding->cluster->slug, $finding->subject()->name]) }}">Open the job and choose
    a number</a>
