<x-layout title="Reviews of grants" bench="guard" sub="review">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('review.index') }}">Review</a></p>
    <h1>{{ $campaigns->isEmpty() ? 'Go through who may what, one by one, by a day'
        : $campaigns->whereNull('ended_us')->count().' reviews of grants are open' }}</h1>
    <form class="form-grid" method="post" action="{{ address('campaign.store') }}">@csrf
        <label for="campaign-title">Name</label><input class="form-control" id="campaign-title" name="title" value="{{
            old('title') }}">@error('title')<p class="hint bad-text" role="alert">{{ $message }}</p>@enderror
        <label for="campaign-due">By</label><input class="form-control" id="campaign-due" type="date" name="due" value="{{
            old('due', gmdate('Y-m-d', App\Platform\Support\Clock::seconds() + 14 * 86400)) }}">@error('due')<p class="hint bad-text"
            role="alert">{{ $message }}</p>@enderror
        <label for="campaign-below">Grants at or below</label><input class="form-control" id="campaign-below" name="below" value="{{
            old('below', 'estate') }}">@error('below')<p class="hint bad-text" role="alert">{{ $message }}</p>@enderror
        <label for="campaign-whom">To</label><select class="form-select" id="campaign-whom" name="whom">
        <option value="all">people and roles</option><option value="people">people only</option><option value="roles">roles only</option>
        </select>
        <span></span><div><button class="btn btn-primary">Begin</button></div>
    </form>
    @if($campaigns->isNotEmpty())<x-table name="Reviews" :export="false"><thead><tr>
    <th scope="col">Review</th><th scope="col">Due</th><th scope="col" class="n">Open</th><th scope="col" class="n">Certified</th>
    <th scope="col" class="n">Revoked</th><th scope="col">Begun by</th></tr></thead><tbody>
    @foreach($campaigns as $campaign)<tr data-row><td><a href="{{ address('campaign.show', $campaign->id) }}">{{
        $campaign->title }}</a></td>
    <td>{{ $campaign->due }}</td>@foreach(['open', 'certified', 'revoked'] as $state)<td class="n">{{ $campaign->items->where('state',
    $state)->count() }}</td>@endforeach<td>{{ $campaign->made_by }}</td></tr>@endforeach
    </tbody></x-table>@endif
</div>
</x-layout>
