@props(['finding'])
@php use Fulcrion\Core\Text\Quantity; @endphp
<li data-row>
    <x-state :is="$finding->mark() === 'none' ? 'no data' : $finding->mark()">{{ in_array($finding->state, ['solved', 'waived'],
        true) ? $finding->state : ($finding->act ? 'act' : 'watch') }}</x-state>
    <div>
        <p><a class="told-link" href="{{ $finding->statement() !== null && $finding->table() === ''
            ? address('statement.show', $finding->statement())."?cluster={$finding->cluster->slug}&window=last+28+days"
            : (str_starts_with($finding->object, 'user:') ? address('statements.index').'?'.http_build_query(['cluster'
                => $finding->cluster->slug,
            'user' => substr($finding->object, 5), 'window' => 'last 28 days', 'by' => 'bytes']) : address('finding.show', $finding->id))
            }}">{{ $finding->problem }}</a></p>
        <p class="quiet small"><span class="mono">{{ $finding->cluster->name }} · {{
            $finding->table() === '' && $finding->statement() !== null ? App\Platform\Support\Sql::line($finding->evidence[0][1]
            ?? $finding->shown(), 110) : $finding->shown() }}</span> · {{ str_replace('-', ' ',
            $finding->rule) }}@if($finding->state === 'accepted') · accepted by {{ $finding->decided_by }}@endif</p>
    </div>
    <p class="weight mono">{{ $finding->weight_us > 0 ? Quantity::duration($finding->weight_us) : ($finding->weight_bytes > 0
        ? Quantity::bytes($finding->weight_bytes) : '') }}</p>
</li>
