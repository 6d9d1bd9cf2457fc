@php use Fulcrion\Core\Text\Quantity; @endphp
<div id="advice-body">
@if($trouble)<div class="notice bad" role="alert">{{ $trouble }}</div>@endif
@if($advice === [] && ! $trouble)<p>There is nothing to advise on an empty table.</p>@endif
@foreach($advice as $one)
    <section class="advice">
        <h3><x-state :is="$one->worthIt ? 'act' : 'calm'">{{ $one->kind === 'together' ? 'all together' : $one->kind }}</x-state> {{
            $one->worthIt ? $one->advice : 'Well as it is' }}</h3>
        @if($one->worthIt)
        <p><strong>{{ match (true) {
            $one->savedUs > 0 && $one->savedBytes > 0
                => 'Saves about '.Quantity::duration($one->savedUs).' and '.Quantity::bytes($one->savedBytes).' a week',
            $one->savedUs > 0 => 'Saves about '.Quantity::duration($one->savedUs).' a week'.($one->savedBytes < 0
                ? ', and moves '.Quantity::bytes(-$one->savedBytes).' more' : ''),
            $one->savedBytes > 0 => 'Saves about '.Quantity::bytes($one->savedBytes).' a week',
            $one->kind === 'statistics' => 'What better estimates save cannot be told beforehand',
            default => 'By itself it saves no modelled time',
        } }}</strong> (modelled); costs {{ Quantity::duration($one->costUs) }} once, rewriting {{ Quantity::bytes($one->costBytes) }}.</p>
        @endif
        <details class="twin"><summary>What this rests on</summary><x-facts>@foreach($one->figures as [$label,
            $value])<tr><th scope="row">{{ $label }}</th><td>{{ $value }}</td></tr>@endforeach</x-facts></details>
        @if($one->worthIt && $one->worse !== [])<p class="quiet small">What gets worse: {{ implode(' ', $one->worse) }}</p>@endif
        @if($one->worthIt && $table->engine !== 'files')
        <form method="post" action="{{ address('layout.propose', [$cluster->slug, $table->name]) }}">@csrf<input type="hidden" name="kind"
            value="{{ $one->kind }}"><button class="btn {{ $loop->first ? 'btn-primary' : 'btn-line' }}">Propose this change</button></form>
        @elseif($one->worthIt && $one->definition !== null && $one->kind !== 'compaction')<p
            class="quiet small">Written as a table: <code>{{ Str::after($one->definition->toSql('t'), ') WITH ') }}</code></p>
        @endif
    </section>
@endforeach
</div>
