@foreach($changes as $change)
<section class="advice">
    <h3 class="rule-title"><a href="{{ address('policy.item', $change->kind->value) }}?name={{ urlencode($change->name) }}">{{
        ucfirst($change->kind->one()) }} {{ $change->name }}</a> <x-state :is="$change->after === null ? 'act' : 'watch'">{{
        $change->verb() }}</x-state>
    @isset($editors["{$change->kind->value} {$change->name}"])<span class="quiet small">{{
        $editors["{$change->kind->value} {$change->name}"]['by'] }}</span>
    <form method="post" action="{{ address('draft.discard') }}">@csrf<input type="hidden" name="kind" value="{{
        $change->kind->value }}"><input type="hidden" name="name" value="{{
        $change->name }}"><button class="plain small">Discard this edit</button></form>@endisset</h3>
    <x-facts class="small">@foreach($change->fields() as $field => [$before, $after])<tr><th scope="row">{{ $field }}</th>
    <td>@if($before !== '')<del>{{ $before }}</del>@endif @if($before !== '' && $after !== '') → @endif @if($after !== '')<ins>{{
    $after }}</ins>@endif</td></tr>@endforeach</x-facts>
</section>
@endforeach
