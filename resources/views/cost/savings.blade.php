@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="Savings" bench="meter" sub="savings">
<div class="reading">
    <h1>{{ $sentence }}</h1>
    @if($all === [])<x-empty>A change that is applied stands here with what its proof promised and what use since then shows. Changes are
        proposed from <a href="{{ address('finding.index') }}">findings</a>.</x-empty>@else
    @if($figure !== null)<x-figure :figure="$figure" name="What changes save a month" />@endif
    <h2>Change by change</h2>
    <x-table name="Savings" :export="false" :columns="true"><thead><tr><th scope="col">How it stands</th><th scope="col">Change</th>
        <th scope="col">Applied</th><th scope="col" class="n">Days since</th><th scope="col" class="n">Statements</th>
        <th scope="col" class="n">Promised a month</th><th scope="col" class="n">Really a month</th></tr></thead>
    <tbody>@foreach($all as $one)<tr data-row><td><x-state :is="$one->mark()">{{ $one->standing() }}</x-state></td>
        <td class="problem"><a href="{{ address('change.show', $one->change->id) }}">{{ $one->change->title }}</a><br><span
        class="quiet small">{{ $one->change->cluster->name }}@if($one->proof !== null), <a href="{{
        address('proof.show', $one->proof->id) }}">{{ $one->proof->kind === 'applied' ? 'proof' : 'rehearsal' }}</a>@endif</span></td>
        <td class="nowrap">{{ moment($one->change->applied_us, MomentStyle::Day) }}</td><td class="n">{{ $one->days }}</td>
        <td class="n">{{ $one->compared }} of {{ count($one->statements) }}</td><td class="n">{{ $one->promised() }}</td>
        <td class="n"><strong>{{ $one->really() }}</strong></td></tr>@endforeach</tbody></x-table>
    <p class="quiet small">Promised: the load of the week before the change, less the share its proof says (modelled). Really: as many
        executions as ran on whole days since, each at what it took in the four weeks before, less what they took (measured). Days on which
        another change touched the same statements belong to that one. Money is time in flight at its mean full cost now; nodes are paid
        for until fewer are needed.</p>
    <div class="tools"><x-exports route="cost.savings-export" /></div>
    @endif
</div>
</x-layout>
