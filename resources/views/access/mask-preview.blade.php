@if($trouble !== null)<p class="bad-text" role="alert">{{ $trouble }}</p>@else
<x-table name="Before and after" class="narrow" :export="false" :sorts="false">
<caption class="quiet small">{{ $path }}, type {{ $type[0] }} before and {{ $type[1] }} after</caption><thead><tr>
<th scope="col">Value</th><th scope="col">Shown</th></tr></thead><tbody>@foreach($rows as [$given, $shown])<tr><td class="mono">{{
$given }}</td><td class="mono">{{ $shown }}</td></tr>@endforeach</tbody></x-table>@endif
