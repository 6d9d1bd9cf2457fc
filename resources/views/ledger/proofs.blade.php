@php use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Proofs" bench="ledger" sub="proofs">
<div class="reading">
    <h1>{{ $count === 0 ? 'Nothing was proven yet' : Quantity::count($count).' '.Str::plural('proof',
        $count).': the same statements before and after a change' }}</h1>
    <div class="tools"><x-exports route="proof.export" /></div>
    @if($proofs->isEmpty())<x-empty>A proof is made when a <a
        href="{{ address('change.index') }}">change</a> is rehearsed, and another when it is applied.</x-empty>@else
    <x-table name="Proofs" :export="false" :columns="true" :sorts="false"><thead><tr><th scope="col">Made</th>
    <th scope="col">Change</th><th scope="col">Kind</th><th scope="col">Says</th><th scope="col" class="n">Factor</th>
    <th scope="col">Holds</th></tr></thead><tbody>@foreach($proofs as $proof)<tr data-row><td class="nowrap">{{
    moment($proof->made_us) }}<br><span
    class="quiet small">{{ $proof->made_by }}</span></td><td><a href="{{ address('change.show', $proof->change_id) }}">{{
    $proof->change->title }}</a><br><span class="quiet small">{{ $proof->change->cluster->name }}</span></td>
    <td>{{ $proof->kind }}</td><td class="problem"><a href="{{ address('proof.show', $proof->id) }}">{{
    $proof->sentence }}</a></td><td class="n">{{ Quantity::digits($proof->factor) }}×</td>
    <td><x-state :is="$proof->holds ? 'calm' : 'act'">{{ $proof->holds ? 'yes' : 'no' }}</x-state></td></tr>@endforeach</tbody></x-table>
    <nav class="pages" aria-label="Pages">@if($proofs->previousPageUrl())<a rel="prev" href="{{
        $proofs->previousPageUrl() }}">Newer</a>@endif @if($proofs->nextPageUrl())<a rel="next" href="{{
        $proofs->nextPageUrl() }}">Older</a>@endif</nav>@endif
</div>
</x-layout>
