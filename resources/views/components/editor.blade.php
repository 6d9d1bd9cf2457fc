@props(['id', 'name' => 'sql', 'value' => '', 'rows' => 5, 'described' => null, 'kind' => 'sql', 'words' => null,
    'placeholder' => 'SELECT ... FROM ...'])
{{-- A text field that becomes an editor with colours and completion; without a script it stays the field. --}}
<div class="editor"><textarea {{ $attributes->class('mono') }} id="{{ $id }}" name="{{ $name }}" rows="{{
    $rows }}" spellcheck="false" autocapitalize="off" autocomplete="off" placeholder="{{ $placeholder }}" data-editor="{{
    $kind }}" data-nonce="{{ App\Platform\Support\StyleNonce::of(request()) }}" @if($words === null)
    data-words-at="{{ address('catalog.words') }}"@else data-words="{{ json_encode($words) }}"@endif @if($described !== null)
    aria-describedby="{{ $described }}"@endif>{{ $value }}</textarea></div>
