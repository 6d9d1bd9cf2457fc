@php
    use App\Platform\Support\MomentStyle; use App\Cost\Application\Bills; use Fulcrion\Core\Text\Quantity;
    $open = array_filter($bills, fn ($one) => $one->reconciliation->differences() !== []);
    $title = match (true) {
        $bills === [] => 'No bill has been read yet',
        $open === [] => count($bills) === 1 ? 'The bill agrees with the price book' : 'All bills agree with the price book',
        count($bills) === 1 => 'The bill differs from the price book',
        default => count($open).' of '.count($bills).' '.Str::plural('bill', count($bills)).(count($open) === 1 ? ' differs' : ' differ')
            .' from the price book',
    };
@endphp
<x-layout title="Bills" bench="meter" sub="bills">
<div class="reading">
    <h1>{{ $title }}</h1>
    @if($bills === [])<x-empty>A bill in the open cost and usage format (FOCUS 1.0), as CSV or Parquet, is held against the price book and
        recorded usage, day by day.@cannot('price') Owners read bills.@endcannot</x-empty>@else
    <x-table name="Bills"><thead><tr><th scope="col">Bill</th><th scope="col">Days, UTC</th><th scope="col" class="n">Billed</th>
        <th scope="col" class="n">Computed</th><th scope="col" class="n">Difference</th><th scope="col">Read by</th></tr></thead>
    <tbody>@foreach($bills as $one)<tr data-row><td><a href="{{ address('bill.show', $one->bill->id) }}">{{
        $one->bill->file_name }}</a></td>
        <td class="nowrap">{{ Bills::span($one->bill) }}</td><td class="n">{{ $one->money($one->reconciliation->billed()) }}</td>
        <td class="n">{{ $one->money($one->reconciliation->computed()) }}</td>
        <td class="n">{{ $one->money($one->reconciliation->difference()) }}</td><td>{{ $one->bill->read_by }}, {{
        moment((int) $one->bill->read_us, MomentStyle::Minute) }}</td></tr>@endforeach</tbody></x-table>
    @endif
    @can('price')
    <h2>Read a bill</h2>
    <form class="form-grid" method="post" action="{{ address('bill.read') }}" enctype="multipart/form-data">@csrf
        <label for="b-file">File, CSV or Parquet</label><input class="form-control" type="file" id="b-file" name="file" required
            accept=".csv,.parquet,text/csv" @error('file') aria-invalid="true" aria-describedby="b-file-hint" @enderror>
        @error('file')<span class="hint bad-text" role="alert" id="b-file-hint">{{ $message }}</span>@enderror
        <label for="b-rate">Rate, if it is in another currency</label><input class="form-control" id="b-rate" name="rate"
            inputmode="decimal" placeholder="0.92" value="{{ old('rate') }}">
        @error('rate')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="b-rate-on">Day of the rate</label><input class="form-control" id="b-rate-on" name="rate_on" placeholder="2026-11-28"
            value="{{ old('rate_on') }}">
        @error('rate_on')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <span></span><label class="check"><input class="form-check-input" type="checkbox" name="in_place" value="1"
            @checked(old('in_place'))> in place of a bill of the same account and days</label>
        <span></span><div><button class="btn btn-primary">Read it</button></div>
    </form>
    @endcan
</div>
</x-layout>
