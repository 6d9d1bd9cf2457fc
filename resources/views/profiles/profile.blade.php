@php use App\Platform\Support\MomentStyle; use Fulcrion\Core\Text\Quantity; @endphp
<x-layout title="{{ $profile->name }}" bench="tend" sub="profiles">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('profile.index') }}">Where the time goes</a> / {{ $profile->name }}</p>
    @if($page === null)
    <h1>{{ in_array($profile->state, ['failed', 'stopped'], true) ? 'It was not taken' : 'It is being taken' }}</h1>
    @if($profile->error)<div class="notice bad" role="alert">{{ $profile->error }}</div>@endif
    @include('profiles.progress', ['run' => $profile])
    @else
    <x-filters :to="address('profile.show', $profile->id)">
        <div><label for="profile-search">Functions with</label><input class="form-control" id="profile-search" name="search"
            value="{{ $page['search'] }}"></div>
        <div><label for="profile-with">Held against</label><select class="form-select" id="profile-with" name="with">
            <option value="">no other profile</option>@foreach($others as $one)<option value="{{ $one->id }}" @selected($page['with']?->id
            === $one->id)>{{ $one->name }}, {{ moment($one->asked_us, MomentStyle::Minute) }}</option>@endforeach</select></div>
        @if($page['names'] !== [])<input type="hidden" name="at" value="{{ implode(';', $page['names']) }}">@endif
    </x-filters>
    <h1>{{ $page['sentence'] }}</h1>
    @if($profile->kind === 'statement')<p><span class="scale">modelled</span> <span class="quiet small">What the steps took is modelled from
        what they read and did.</span></p>@endif
    @if($page['found'] !== null)<p>{{ Quantity::percent($page['found']) }} of the time has a function with “{{ $page['search'] }}” in its
        name.</p>@endif
    @if($page['names'] !== [])<p class="trail"><a href="{{ address('profile.show', $profile->id) }}">all</a>
        @foreach($page['names'] as $depth => $name) / @if($loop->last){{ $name }}@else<a href="{{ address('profile.show', $profile->id)
        }}?{{ http_build_query(['at' => implode(';', array_slice($page['names'], 0, $depth + 1))]) }}">{{ $name }}</a>@endif
        @endforeach</p>@endif
    <x-figure :figure="$page['figure']" name="Where the time goes" />
    <div class="tools"><a href="{{ address('profile.file', $profile->id) }}">Save as folded stacks</a> @can('profile')<form class="inline"
        method="post" action="{{ address('profile.remove', $profile->id) }}" data-confirm="The profile {{ $profile->name }} is removed.">
        @csrf<button class="plain">Remove it</button></form>@endcan
        <span class="quiet">{{ $profile->unit === 'ms' ? Quantity::duration($profile->total * 1000) : Quantity::count($profile->total)
        .' samples' }}{{ $profile->refused > 0 ? ', '.Quantity::count($profile->refused).' lines were left out' : '' }}{{
        $profile->folded > 0 ? ', '.Quantity::percent($profile->folded / max(1e-12, $profile->total)).' counts for a place further
        out' : '' }}</span></div>
    <h2>{{ $page['with'] === null ? 'Functions that took most themselves' : 'Functions that changed most' }}</h2>
    <x-table name="Functions"><thead><tr><th scope="col">Function</th><th scope="col" class="n">Itself</th>@if($page['with'] !== null)<th
        scope="col" class="n">Before</th>@endif<th scope="col" class="n">With all it called</th></tr></thead><tbody>
        @foreach($page['functions'] as $one)<tr data-row><td class="mono"><a href="{{ address('profile.show', $profile->id) }}?{{
        http_build_query(['search' => $one['name']]) }}">{{ $one['name'] }}</a></td><td class="n">{{ Quantity::percent($one['own']) }}</td>
        @if($page['with'] !== null)<td class="n">{{ Quantity::percent($one['before']) }}</td>@endif<td class="n">{{
        Quantity::percent($one['total']) }}</td></tr>@endforeach</tbody></x-table>
    @endif
</div>
</x-layout>
