<x-layout title="Add a cluster" bench="tend">
<div class="reading">
    <p class="trail"><a data-back href="{{ address('cluster.index') }}">Clusters</a> / new</p>
    <h1>Add a cluster: a live MariaDB that is read, or one whose telemetry comes in files</h1>
    <h2>Live MariaDB</h2>
    <p>Make an account that can do nothing but watch:</p>
    <pre class="sql" tabindex="0">CREATE USER 'fulcrion_watcher'@'%' IDENTIFIED BY '...';
GRANT PROCESS ON *.* TO 'fulcrion_watcher'@'%';
GRANT SELECT ON performance_schema.* TO 'fulcrion_watcher'@'%';</pre>
    <form class="form-grid" method="post" action="{{ address('cluster.store') }}">
        @csrf<input type="hidden" name="connector" value="mariadb">
        <label for="name">Name</label><input class="form-control" id="name" name="name" value="{{
            old('connector') === 'mariadb' ? old('name') : '' }}" required maxlength="120">
        <label for="role">Role</label><input class="form-control" id="role" name="role" value="{{ old('role', 'production') }}" required
            maxlength="60">
        @include('clusters.connection')
        <span></span><div><button class="btn btn-primary">Add the server</button></div>
    </form>
    <h2>Files and HTTP</h2>
    <form class="form-grid" method="post" action="{{ address('cluster.store') }}">
        @csrf<input type="hidden" name="connector" value="files">
        <label for="file-name">Name</label><input class="form-control" id="file-name" name="name" value="{{
            old('connector') === 'files' ? old('name') : '' }}" required maxlength="120">
        <label for="file-role">Role</label><input class="form-control" id="file-role" name="role" value="production" required
            maxlength="60">
        <label for="dialect">Double quotes hold</label><select class="form-select" id="dialect" name="dialect">
        <option value="ansi">identifiers, as the standard says</option><option value="mariadb">texts, as MariaDB does by default</option>
        </select>
        <span class="hint">This decides what counts as a literal in its statements.</span>
        <span></span><div><button class="btn btn-primary">Add the cluster</button></div>
    </form>
</div>
</x-layout>
