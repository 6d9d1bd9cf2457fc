@php use Fulcrion\Core\Limits\Act; use Fulcrion\Core\Limits\LimitMeasure;
    $said = fn (string $field, mixed $else = '') => old($field, request()->query($field, $else));
    $shares = []; foreach ($kept?->limit->thresholds ?? [] as $one) { $shares[$one->act->value] = $one->percent; } @endphp
<label for="l-amount">Amount</label><input class="form-control" id="l-amount" name="amount" required maxlength="40"
    placeholder="2 TiB, 10 h, 5000 or 120.50" value="{{ $said('amount', $kept?->typed() ?? '') }}">
@error('amount')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
@foreach(Act::cases() as $one)<label for="l-{{ $one->value }}">{{ ucfirst($one->label()) }} at, percent</label><input class="form-control"
    id="l-{{ $one->value }}" name="{{ $one->value }}" maxlength="6" inputmode="numeric" value="{{ $said($one->value, $kept === null
    ? ($one === Act::Hold ? 100 : ($one === Act::Tell ? 80 : '')) : ($shares[$one->value] ?? '')) }}">
@error($one->value)<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
@endforeach
<label for="l-recipient">Write to</label><input class="form-control" id="l-recipient" name="recipient" type="email" maxlength="190"
    value="{{ $said('recipient', $kept->recipient ?? '') }}">
@error('recipient')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
@if($webhooks !== [])<label for="l-webhook">Webhook</label><select class="form-select" id="l-webhook" name="webhook">
    <option value="">none</option>@foreach($webhooks as $id => $shown)<option value="{{ $id }}" @selected((string) $said('webhook',
    $kept->watcherId ?? '') === (string) $id)>{{ $shown }}</option>@endforeach</select>
@error('webhook')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
@endif
<label for="l-ask">Whom to ask</label><input class="form-control" id="l-ask" name="ask" maxlength="190" value="{{ $said('ask',
    $kept->ask ?? '') }}" placeholder="{{ auth()->user()?->name }}">
@error('ask')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
