@php use Fulcrion\Core\Text\Quantity; @endphp
<div id="bench-history">
<x-filters :to="address('workbench.history')" part="bench-history">
    <x-search id="history-words" label="Words in what you ran" :value="$words" :key="false" maxlength="200" />
</x-filters>
@if($history === [])<p class="quiet">{{ $words === '' ? 'What you run is listed here, newest first.' : 'Nothing you ran has these words.'
    }}</p>
@else
<x-table name="What was run before" :export="false">
    <thead><tr><th scope="col">When</th><th scope="col">Where</th><th scope="col">What came of it</th><th scope="col">Statement</th></tr>
    </thead>
    <tbody>@foreach($history as [$run, $sql])
        <tr><td class="nowrap">{{ moment($run->started_us) }}</td><td class="nowrap">{{ $run->cluster }}</td>
        <td>{{ match($run->state) { 'done' => $run->mode !== 'run' ? ($run->mode === 'actual' ? 'plan with figures' : 'plan')
            : Quantity::count((int) $run->row_count).' rows', 'failed' => 'refused', default => $run->state } }}@if($run->elapsed_us), {{
            Quantity::duration((int) $run->elapsed_us) }}@endif @if($run->plan_id)<a href="{{ address('plan.show',
                $run->plan_id) }}">plan</a>@endif</td>
        <td class="statement mono"><a href="{{ address('workbench.show') }}?cluster={{ $run->slug }}&amp;schema={{
            $run->schema }}&amp;run={{
            $run->key }}">{{ App\Platform\Support\Sql::line((string) preg_replace('~\s+~', ' ', $sql), 110) }}</a></td></tr>
    @endforeach</tbody></x-table>
@endif
</div>
