@php
    use App\Platform\Support\MomentStyle; use Fulcrion\Core\Cost\Bill\Agreement;
    $differences = $page->reconciliation->differences();
    $bill = $page->bill;
@endphp
<x-layout title="Bill" bench="meter" sub="bills">
<div class="reading">
    <h1>{{ $page->sentence() }}</h1>
    <p class="quiet">{{ $bill->file_name }}, {{ $bill->line_count }} {{ Str::plural('line', (int) $bill->line_count) }}, read by {{
        $bill->read_by }} {{ moment((int) $bill->read_us, MomentStyle::Minute) }}.@if($bill->rate !== null) It is in {{ $bill->currency }};
        one is {{ Brick\Math\BigDecimal::of($bill->rate)->stripTrailingZeros() }} {{ $page->currency }}, the rate of {{ $bill->rate_on }}.
        @endif</p>
    <x-figure :figure="$page->figure()" name="Computed and billed" />
    @if($differences !== [])
    <h2>Differences</h2>
    <x-table name="Differences" :export="false"><thead><tr><th scope="col">Cluster</th><th scope="col">What</th><th scope="col">Days</th>
        <th scope="col" class="n">Billed</th><th scope="col" class="n">Computed</th><th scope="col" class="n">Difference</th>
        <th scope="col">Likely cause</th></tr></thead>
    <tbody>@foreach($differences as $match)<tr data-row><td>{{ $page->cluster($match) }}</td>
        <td>{{ $page->what($match) }}{{ $match->kind === null ? '' : ', '.$match->agreement->label() }}</td>
        <td>{{ $page->days($match) }}</td>
        <td class="n">{{ $match->agreement === Agreement::OnlyComputed ? '' : $page->money($match->billed) }}</td>
        <td class="n">{{ $match->agreement === Agreement::OnlyBilled ? '' : $page->money($match->computed) }}</td>
        <td class="n"><strong>{{ $page->money($match->difference()) }}</strong></td><td>{{ $match->cause() }}</td></tr>@endforeach
    <tr class="sum"><th scope="row">all, with what agrees</th><td></td><td></td><td class="n">{{
        $page->money($page->reconciliation->billed()) }}</td><td class="n">{{ $page->money($page->reconciliation->computed()) }}</td>
        <td class="n">{{ $page->money($page->reconciliation->difference()) }}</td><td></td></tr></tbody></x-table>
    @endif
    <div class="tools">@foreach(App\Platform\Support\ExportFormat::words() as $word)<a
        href="{{ address('bill.export', [$bill->id, $word]) }}">{{ strtoupper($word) }}</a> @endforeach</div>
    @can('price')
    @if($page->unknown() !== [])
    <h2>Resources that are no cluster</h2>
    @foreach($page->unknown() as $i => $resource)
    <form class="form-grid" method="post" action="{{ address('bill.match', $bill->id) }}">@csrf
        <input type="hidden" name="resource" value="{{ $resource }}">
        <label for="b-is-{{ $i }}">{{ $resource === '' ? 'no resource named' : $resource }} is</label><select class="form-select"
            id="b-is-{{ $i }}" name="cluster">@foreach($clusters as $one)<option value="{{ $one->slug }}">{{ $one->name }}</option>
        @endforeach</select>
        <span></span><div><button class="btn btn-line">Save</button></div>
    </form>
    @endforeach
    @endif
    <form method="post" action="{{ address('bill.remove', $bill->id) }}"
        data-confirm="Remove this bill? It can be read again from its file.">
        @csrf<button class="plain">Remove this bill</button></form>
    @endcan
    <p><a href="{{ address('bill.index') }}">All bills</a> · <a href="{{ address('cost.prices') }}">Prices</a></p>
</div>
</x-layout>
