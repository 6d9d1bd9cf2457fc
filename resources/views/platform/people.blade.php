<x-layout title="People">
    <div class="reading">
    <h1>{{ $people->whereNull('disabled_at')->count() }} {{ Str::plural('person',
        $people->whereNull('disabled_at')->count()) }} may sign in, {{ $people->where('role',
        App\Platform\Support\Role::Owner)->whereNull('disabled_at')->count() }} of them as owner</h1>
    <x-table name="People" :export="false">
        <thead><tr><th scope="col">Name</th><th scope="col">Address</th><th scope="col">Role</th><th scope="col">In the policy</th>
        <th scope="col">Signs in</th><th scope="col">Password</th><th scope="col"><span class="visually-hidden">Act</span></th></tr></thead>
        <tbody>
        @foreach($people as $person)
            <tr data-row>
                <td class="nowrap">{{ $person->name }}</td><td>{{ $person->email }}</td>
                <td><form id="person-{{ $person->id }}" method="post" action="{{ address('people.update', $person->id) }}">@csrf
                    <select class="form-select" name="role" aria-label="Role of {{ $person->name }}">@foreach($roles as $role)<option
                        value="{{ $role->value }}" @selected($person->role === $role)>{{ $role->value }}</option>@endforeach</select>
                        </form></td>
                <td><select class="form-select narrow" form="person-{{ $person->id }}" name="policy_person" aria-label="Who {{
                    $person->name }} is in the policy"><option value="">nobody: holds what everyone has</option>@foreach($known as $name
                    => $title)<option value="{{ $name }}" @selected($person->policy_person === (string) $name)>{{ $name }} ({{
                    $title }})</option>@endforeach @if($person->policy_person !== null && ! isset($known[$person->policy_person]))<option
                    value="{{ $person->policy_person }}" selected>{{
                    $person->policy_person }} (not in the policy any more)</option>@endif</select></td>
                <td><select class="form-select" form="person-{{ $person->id }}" name="disabled" aria-label="May {{
                    $person->name }} sign in"><option value="0">yes</option>
                    <option value="1" @selected($person->disabled_at !== null)>no</option></select></td>
                <td><select class="form-select" form="person-{{ $person->id }}" name="new_password" aria-label="Password of {{
                    $person->name }}"><option value="0">keep</option><option value="1">make a new one</option></select></td>
                <td><button class="btn btn-line" form="person-{{ $person->id }}">Save<span class="visually-hidden"> {{
                    $person->name }}</span></button></td>
            </tr>
        @endforeach
        </tbody>
    </x-table>
    @error('policy_person')<p class="bad-text" role="alert">{{ $message }}</p>@enderror
    <p class="quiet small">The role says what somebody does here. What they may see of tables is decided by the policy, for the person an
        account is bound to.</p>
    <h2>Add a person</h2>
    <form class="form-grid" method="post" action="{{ address('people.store') }}">
        @csrf
        <label for="name">Name</label><input class="form-control" id="name" name="name" value="{{ old('name') }}" required maxlength="120">
        <label for="email">Address</label><input class="form-control" id="email" name="email" type="email" value="{{
            old('email') }}" required>
        @error('email')<span class="hint bad-text" role="alert">{{ $message }}</span>@enderror
        <label for="role">Role</label><select class="form-select" id="role" name="role">@foreach($roles as $role)<option value="{{
            $role->value }}">{{ $role->value }}: {{ $role->describe() }}</option>@endforeach</select>
        <span></span><div><button class="btn btn-primary">Add</button></div>
    </form>
    </div>
</x-layout>
