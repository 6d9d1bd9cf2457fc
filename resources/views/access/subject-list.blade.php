<datalist id="{{ $id ?? 'subjects' }}">@foreach($subjects as $one)<option value="{{ str_starts_with($one, 'person:') ? substr($one,
    7) : $one }}">@endforeach</datalist>
