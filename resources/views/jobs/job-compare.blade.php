@php
    use Fulcrion\Core\Text\Quantity; use App\Jobs\Application\JobFindings;
    $worst = $changes[0] ?? null; $more = $run->work_us - $other->work_us;
@endphp
<x-layout title="Compare runs of {{ $run->name }}" bench="tune" sub="jobs">
<div class="reading">
    <p class="trail"><a href="{{ address('job.index') }}">Jobs</a> / <a data-back href="{{ address('job.show', $run->id) }}">{{
        $run->name }}</a> / compare</p>
    <h1>{{ $run->name }} took {{ Quantity::duration($run->elapsedUs()) }} with {{ Quantity::count($run->workers) }} workers on {{
        moment($run->started_us) }}, and {{ Quantity::duration($other->elapsedUs()) }} with {{ Quantity::count($other->workers) }} on {{
        moment($other->started_us) }}{{ $worst !== null && $more > 0.03 * max(1, $other->work_us) && $worst->moreUs() > 0
        ? '; '.$worst->stage.' makes '.Quantity::percent(min(1, $worst->moreUs() / max(1, $more))).' of the worker time it takes more'
        : '; the worker time is '.Quantity::change($other->work_us, $run->work_us, 'more', 'less') }}</h1>
    <x-filters :to="url()->current()"><div><label for="with">Against the run of</label><select class="form-select" id="with" name="with"
        data-submits>@foreach($with as $one)<option value="{{ $one->id }}" @selected($one->id === $other->id)>{{
        moment($one->started_us) }}, {{ $one->workers }} workers</option>@endforeach</select>
        </div></x-filters>
    <x-table name="Runs" class="narrow"><thead><tr>
    <th scope="col"><span class="visually-hidden">Figure</span></th><th scope="col" class="n">{{ moment($other->started_us) }}</th>
    <th scope="col" class="n">{{ moment($run->started_us) }}</th><th scope="col">Change</th></tr></thead><tbody>
        @foreach([['time', 'elapsedUs', fn ($r) => Quantity::duration($r->elapsedUs()), 'slower', 'faster'], ['worker time', 'work',
            fn ($r) => Quantity::duration($r->work_us), 'more', 'less'], ['input', 'input', fn ($r) => Quantity::bytes($r->input_bytes),
            'more', 'less'], ['cost', 'cost', fn ($r) => JobFindings::money($r->cost(), $r), 'dearer', 'cheaper']] as [$label, $key,
            $words, $up, $down])@php $value = fn ($r) => (float) ['elapsedUs' => $r->elapsedUs(), 'work' => $r->work_us, 'input' =>
            $r->input_bytes, 'cost' => $r->cost()][$key]; @endphp<tr><th scope="row">{{ $label }}</th>
            <td class="n">{{ $words($other) }}</td><td class="n">{{ $words($run) }}</td><td>{{ Quantity::change($value($other),
            $value($run), $up, $down) }}</td></tr>@endforeach
    </tbody></x-table>
    <h2>Stage by stage</h2>
    <x-table name="Stages" export="Stages of both runs"><thead><tr>
    <th scope="col">Stage</th><th scope="col" class="n">Worker time before</th><th scope="col" class="n">after</th>
    <th scope="col">Change</th><th scope="col" class="n">Read before</th><th scope="col" class="n">after</th>
    <th scope="col">For the same bytes</th><th scope="col" class="n">Lasted before</th><th scope="col" class="n">after</th></tr></thead>
    <tbody>@foreach($changes as $c)@php $rate = $c->perByte(); @endphp<tr data-row @class(['worse' => $rate !== null && $rate > 1.2])>
    <td>{{ $c->stage }}</td><td class="n">{{ Quantity::duration($c->before['workUs'] ?? null) }}</td>
    <td class="n">{{ Quantity::duration($c->after['workUs'] ?? null) }}</td><td>{{ $c->before === null ? 'new' : ($c->after === null
    ? 'gone' : Quantity::change($c->before['workUs'], $c->after['workUs'], 'more', 'less')) }}</td>
    <td class="n">{{ Quantity::bytes($c->before['bytesRead'] ?? null) }}</td><td class="n">{{ Quantity::bytes($c->after['bytesRead']
    ?? null) }}</td><td>{{ $rate === null ? Quantity::NONE : Quantity::change(1.0, $rate, 'slower', 'faster') }}</td>
    <td class="n">{{ Quantity::duration($c->before['wallUs'] ?? null) }}</td><td class="n">{{ Quantity::duration($c->after['wallUs']
    ?? null) }}</td></tr>@endforeach</tbody></x-table>
</div>
</x-layout>
