<?php

declare(strict_types=1);

namespace App\Workbench\Http;

use App\Estate\Authorization\Clusters;
use App\Estate\Catalog\CatalogObject;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Telemetry\Store\KnownStatements;
use App\Workbench\Application\ResultFile;
use App\Workbench\Application\RunStatements;
use App\Workbench\Application\WorkbenchRuns;
use App\Workbench\Http\Requests\ReceiveFileRequest;
use App\Workbench\Http\Requests\RunStatementsRequest;
use Fulcrion\Core\Sql\Parser;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;

final readonly class WorkbenchController
{
    public function __construct(private Clusters $clusters, private WorkbenchRuns $runs)
    {
    }

    public function show(Request $request, #[CurrentUser] User $user, KnownStatements $known, Ledger $ledger): View
    {
        $clusters = Cluster::query()
            ->whereIn('connector', ['practice', 'mariadb'])
            ->orderByRaw("role = 'rehearsal' DESC")
            ->orderBy('id')
            ->get();
        $cluster = Cluster::chosen($clusters, $request->query('cluster'));
        [$objects, $trouble] = $this->catalog($cluster, $user);
        $schemas = array_values(array_unique(array_map(static fn (CatalogObject $object): string => $object->schema, $objects)));
        $schema = $request->query->getString('schema');
        [$sql, $note] = $this->text($request, $user, $known, $ledger);

        return view('workbench.workbench', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'objects' => $objects,
            'trouble' => $trouble,
            'schemas' => $schemas,
            'schema' => in_array($schema, $schemas, true) ? $schema : $schemas[0] ?? '',
            'sql' => $sql,
            'note' => $note,
            'history' => $this->runs->history($user->id, '', 8),
            'changes' => $cluster !== null && $this->clusters->for($user, 'workbench')->runner($cluster)?->changes() === true,
        ]);
    }

    public function run(RunStatementsRequest $request, #[CurrentUser] User $user): Response|JsonResponse
    {
        $data = $request->validated();
        $cluster = Cluster::query()->where('slug', $data['cluster'])->firstOrFail();
        $statements = $this->statements($data['sql'], ($data['which'] ?? 'one') === 'all' ? null : (int) ($data['at'] ?? 0));
        if ($statements === []) {
            return response('<div class="notice bad" role="alert">There is no statement here.</div>', 422);
        }
        $this->runs->begin($data['key'], $user, $cluster, (string) ($data['schema'] ?? ''), $data['mode'], $statements[0][1], 'waiting');
        dispatch(new RunStatements($data['key'], $user->id, $cluster->id, (string) ($data['schema'] ?? ''), $data['mode'], $statements));

        return $this->outcome($user, $data['key']);
    }

    /** What a run gave, as soon as it ended; 202 until then. */
    public function outcome(#[CurrentUser] User $user, string $key): Response|JsonResponse
    {
        $run = $this->runs->find($key, $user->id) ?? abort(404);
        $outcome = $this->runs->outcome($key);
        if ($outcome !== null) {
            return response($outcome)->header('Cache-Control', 'no-store');
        }
        if ($this->runs->mayStillAnswer($run)) {
            return response()->json(['state' => $run->state === 'waiting' ? 'waiting' : 'running'], 202);
        }

        return response(view('workbench.workbench-broken')->render());
    }

    public function stop(#[CurrentUser] User $user, string $key): JsonResponse
    {
        return response()->json(['asked' => $this->runs->askStop($key, $user->id)]);
    }

    public function download(#[CurrentUser] User $user, string $key, string $format, ResultFile $files, Ledger $ledger): Response
    {
        $run = $this->runs->find($key, $user->id) ?? abort(404);
        $result = $this->runs->result($key) ?? abort(410, 'The result is no longer kept; run the statement again.');
        $ledger->record($user, 'took a result away', "run {$key}", ['format' => $format, 'rows' => count($result[1])]);

        return $files->response($format, 'result-'.substr($run->key, 0, 8), $result[0], $result[1]);
    }

    public function receive(ReceiveFileRequest $request, #[CurrentUser] User $user, Ledger $ledger): RedirectResponse
    {
        $data = $request->validated();
        $cluster = Cluster::query()->where('slug', $data['cluster'])->firstOrFail();
        $file = upload($request);
        $name = (string) preg_replace('~[^\w.-]+~', '_', ltrim($file->getClientOriginalName(), '.'));
        if (preg_match('~\.(csv|parquet)$~i', $name) !== 1) {
            return back()->withErrors(['file' => 'COPY reads files whose names end in .csv or .parquet.']);
        }
        try {
            $this->clusters->for($user, 'workbench')->receive($cluster, $name, $file->getPathname());
        } catch (SourceError $error) {
            return back()->withErrors(['file' => $error->getMessage()]);
        }
        $ledger->record($user, 'put a file into an inbox', $cluster->name, ['file' => $name]);

        return redirect(address('workbench.'
            .'show')."?cluster={$cluster->slug}&sql=".rawurlencode("COPY schema.table FROM 'inbox/{$name}'"))->with(
                'done',
                "{$name} is in the inbox of {$cluster->name}; COPY reads it from there.",
            );
    }

    public function history(Request $request, #[CurrentUser] User $user): View
    {
        $words = mb_substr($request->query->getString('words'), 0, 200);

        return view('workbench.workbench-history', [
            'history' => $this->runs->history($user->id, $words, 100),
            'words' => $words,
        ]);
    }

    /**
     * @return array{list<CatalogObject>, string|null}
     */
    private function catalog(?Cluster $cluster, User $user): array
    {
        if ($cluster === null) {
            return [[], null];
        }
        try {
            return [$this->clusters->for($user, 'catalog')->objects($cluster) ?? [], null];
        } catch (SourceError $error) {
            return [[], $error->getMessage()];
        }
    }

    /**
     * @return array{string, string|null} what the editor begins with, a word on it
     */
    private function text(Request $request, User $user, KnownStatements $known, Ledger $ledger): array
    {
        $run = is_string($request->query('run')) ? $this->runs->find($request->query('run'), $user->id) : null;
        if ($run !== null) {
            return [$this->runs->sql($run), null];
        }
        $fingerprint = $request->query('statement');
        $source = Cluster::query()->where('slug', $request->query('of'))->first();
        if (! is_string($fingerprint) || $source === null) {
            return [$request->query->getString('sql'), null];
        }
        $statement = $known->find($fingerprint, $source->id);
        if ($statement === null) {
            return ['', 'That statement is not known any more.'];
        }
        $sample = $user->can('reveal') ? $known->latestSample($source->id, $statement->id) : null;
        if ($sample === null) {
            return [$statement->text, 'The marks ? stand for literals that are hidden or not kept: put values in their place.'];
        }
        $ledger->record($user, 'revealed literals', "statement {$fingerprint}", [
            'cluster' => $source->slug,
            'samples' => 1,
            'for' => 'rehearsal',
        ]);

        return [(string) $sample['sql'], 'The text of the latest sample, with its literals.'];
    }

    /**
     * @return list<array{int, string}> offset in the text, statement
     */
    private function statements(string $text, ?int $cursor): array
    {
        $list = [];
        foreach ((new Parser())->split($text) as [$from, $to]) {
            $list[] = [$from, $to];
        }
        if ($cursor !== null && $list !== []) {
            // The editor counts units of UTF-16, the text bytes.
            $before = substr((string) mb_convert_encoding($text, 'UTF-16LE', 'UTF-8'), 0, 2 * $cursor);
            $at = strlen((string) mb_convert_encoding($before, 'UTF-8', 'UTF-16LE'));
            $chosen = $list[0];
            foreach ($list as $span) {
                if ($span[0] <= $at) {
                    $chosen = $span;
                }
            }
            $list = [$chosen];
        }

        return array_map(static fn (array $span): array => [$span[0], substr($text, $span[0], $span[1] - $span[0])], $list);
    }
}
