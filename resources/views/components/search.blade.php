@props(['id', 'label', 'value' => '', 'name' => 'words', 'key' => true])
{{-- Words to find; the key / goes there. --}}
<div><label for="{{ $id }}">{{ $label }}</label><input {{ $attributes->class('form-control') }} id="{{ $id }}" type="search"
    name="{{ $name }}" value="{{ $value }}" @if($key) data-key="&#47;"@endif></div>
