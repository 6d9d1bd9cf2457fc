@php
    use Fulcrion\Core\Access\Policy\{ObjectPath, Subject};
    $deep = count(ObjectPath::parts($grid['places'][0] ?? 'estate'));
    $last = static fn (string $path): string => implode('.', array_slice(ObjectPath::parts($path), $deep === 2 ? 0 : -1));
@endphp
<x-table name="Who sees what" :export="false" :sorts="false" class="sight-grid">
    <caption class="quiet small">Each cell: how much of the columns is seen plainly (filled), masked (hatched) or not at all
        (empty).</caption>
    <thead><tr><th scope="col">{{ ($by ?? 'roles') === 'roles' ? 'Role' : 'Person' }}</th>@foreach($grid['places'] as $place)<th
        scope="col" class="place">@if($deep < 4)<a href="{{ address('access.matrix') }}?by={{ $by ?? 'roles' }}&amp;at={{
        urlencode($place) }}">{!! str_replace('.', '.<wbr>', e($last($place))) !!}</a>@else<a href="{{
            address('access.explain') }}?object={{
        urlencode($place) }}">{{ $last($place) }}</a>@endif</th>@endforeach</tr></thead>
    <tbody>@foreach($grid['rows'] as $row)<tr data-row><th scope="row"><a href="{{ address('access.explain') }}?who={{
        urlencode($row['who']) }}">{{
        Subject::split($row['who'])[1] }}</a></th>
        @foreach($row['cells'] as $i => $cell)@php
            $sum = max(1, array_sum($cell)); $plain = $cell['visible'] / $sum; $masked = $cell['masked'] / $sum;
            $words = array_sum($cell) === 0 ? 'nothing there' : ($cell['visible'] === $sum ? 'all' : ($cell['visible'] + $cell['masked']
                === 0 ? 'none' : $cell['visible'].' of '.$sum.($cell['masked'] > 0 ? ', '.$cell['masked'].' masked' : '')));
        @endphp<td><a class="sight" href="{{ address('access.explain') }}?who={{ urlencode($row['who']) }}&amp;object={{
            urlencode($grid['places'][$i]) }}"><svg viewBox="0 0 60 12" aria-hidden="true"><rect class="none" x=".5" y=".5" width="59"
            height="11"/><rect class="plain-part" width="{{ round(60 * $plain, 1) }}" height="12"/>@if($masked > 0)<rect
            class="masked-part" x="{{ round(60 * $plain, 1) }}" width="{{ round(60 * $masked,
            1) }}" height="12"/>@for($x = round(60 * $plain) + 3; $x < 60 * ($plain + $masked); $x += 5)<path class="masked-line" d="M{{
            $x }} 12l3 -12"/>@endfor @endif</svg><span class="small">{{ $words }}</span></a></td>@endforeach</tr>@endforeach</tbody>
</x-table>
