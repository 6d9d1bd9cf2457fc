@if($anomalies === [])
    <p><x-state is="calm" /> No statement or user of {{
        $scope->cluster->name }} changed its level, weighed much for how seldom it ran, failed more often
        than not, or asked the same thing round the clock.</p>
@else
<ul class="annotated">
    @foreach($anomalies as $each)
        <li>
            <x-state :is="$each->state">{{ $each->kind }}</x-state>
            <div>
                <p>{{ $each->sentence }}@if($each->secondsPerWeek >= 60) <span class="quiet nowrap">About {{
                    Fulcrion\Core\Text\Quantity::duration($each->secondsPerWeek * 1e6) }} of load a week.</span>@endif</p>
                @if($each->fingerprint !== null)
                    <a class="what" href="{{ address('statement.show', $each->fingerprint) }}?{{
                        http_build_query(['cluster' => $scope->cluster->slug, 'window' => $each->window]) }}">{{ $each->subject }}</a>
                @else
                    <a class="what" href="{{ address('statements.index') }}?{{ http_build_query(['cluster' => $scope->cluster->slug,
                        'window' => $each->window, 'user' => $each->user, 'by' => 'bytes']) }}">statements of {{
                        $each->subject }}, by bytes scanned</a>
                @endif
            </div>
        </li>
    @endforeach
</ul>
<p class="quiet small">Computed from day and hour summaries of this cluster. A level counts as changed when a split of the days at one
    date puts nine in ten on their own side and the medians differ by a factor of 2 (latency) or 1.25 (bytes of a user).</p>
@endif
