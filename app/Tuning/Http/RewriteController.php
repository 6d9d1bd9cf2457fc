<?php

declare(strict_types=1);

namespace App\Tuning\Http;

use App\Estate\Authorization\ActingRunner;
use App\Estate\Authorization\Clusters;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Telemetry\Workload\EstateReader;
use App\Telemetry\Workload\WorkloadReader;
use App\Tuning\Application\RewriteRequest;
use App\Tuning\Http\Requests\AskRewritesRequest;
use Fulcrion\Core\Proofs\Measured;
use Fulcrion\Core\Sql\BoundText;
use Fulcrion\Core\Sql\Instead\Instead;
use Fulcrion\Core\Sql\Instead\Suggestion;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Sql\SyntaxError;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

/**
 * What the planner made of a statement, what each rewrite was worth, and what could be written instead.
 */
final readonly class RewriteController
{
    public function __construct(private Clusters $clusters, private RewriteRequest $asked, private EstateReader $reader)
    {
    }

    public function index(Request $request): View
    {
        return view('tuning.rewrites', [
            'clusters' => $this->clusters(),
            'asked' => null,
            'key' => '',
            'rewrites' => [],
            'suggestions' => [],
            'all' => null,
            'estimated' => 0.0,
            'trouble' => null,
        ]);
    }

    public function ask(AskRewritesRequest $request, #[CurrentUser] User $user, WorkloadReader $workload, Ledger $ledger): RedirectResponse
    {
        $data = $request->validated();
        $cluster = Cluster::query()->where('slug', $data['cluster'])->where('connector', 'practice')->first();
        if (! ($cluster instanceof Cluster)) {
            return redirect(address('rewrite.index'))
                ->withInput()
                ->withErrors(['cluster' => 'The planner of a practice cluster tells what it did; choose one.']);
        }
        $sql = trim((string) ($data['sql'] ?? ''));
        $schema = (string) ($data['schema'] ?? '');
        if ($sql === '') {
            $id = DB::table('statements')->where('fingerprint', $data['fingerprint'])->value('id');
            $sample = $id === null ? [] : $workload->samples($cluster->id, [(int) $id])[(int) $id] ?? [];
            $schema = (string) ($sample['database'] ?? '');
            $sql = isset($sample['sql']) ? BoundText::fill((string) $sample['sql'], (array) ($sample['binds'] ?? [])) : '';
            try {
                $sql = $sql === '' ? '' : (string) Reading::of($sql);
            } catch (SyntaxError $error) {
                return redirect(address('rewrite.index'))->withErrors(['sql' => $error->getMessage()]);
            }
            if ($sql === '') {
                return redirect(address('rewrite.index'))->withErrors([
                    'sql' => 'No run of this statement was kept with its values, or it reads nothing. Write it out to look at it.',
                ]);
            }
        }

        if (trim((string) ($data['sql'] ?? '')) === '') {
            // The page shows the statement with its values.
            $ledger->record($user, 'revealed literals', "statement {$data['fingerprint']}", [
                'cluster' => $cluster->slug,
                'samples' => 1,
                'for' => 'rewrites',
            ]);
        }

        return redirect(address('rewrite.show', $this->asked->keep($user, $cluster, $schema, rtrim($sql, "; \n"))));
    }

    public function show(#[CurrentUser] User $user, string $key): View
    {
        [$cluster, $schema, $sql] = $this->asked->open($user, $key) ?? abort(404);
        $source = $this->runner($user, $cluster);
        $rewrites = $suggestions = [];
        $all = $trouble = null;
        $estimated = 0.0;
        try {
            $rewrites = $source->rewrites($sql, $schema);
            $estimated = $source->estimatedRows($sql, $schema);
            $suggestions = $this->suggestions($user, $cluster, $schema, $sql);
            $all = $source->measureWithout($sql, $schema, null);
        } catch (SourceError|SyntaxError $error) {
            $trouble = $error->getMessage();
        }

        return view('tuning.rewrites', [
            'clusters' => $this->clusters(),
            'asked' => [$cluster, $schema, $sql],
            'key' => $key,
            'rewrites' => $rewrites,
            'suggestions' => $suggestions,
            'all' => $all,
            'estimated' => $estimated,
            'trouble' => $trouble,
        ]);
    }

    /** One rewrite switched off. */
    public function without(#[CurrentUser] User $user, string $key, string $rewrite): View
    {
        [$cluster, $schema, $sql] = $this->asked->open($user, $key) ?? abort(404);
        $source = $this->runner($user, $cluster);
        try {
            $with = $source->measureWithout($sql, $schema, null);
            $without = $source->measureWithout($sql, $schema, $rewrite);
        } catch (SourceError $error) {
            [$with, $without] = [Measured::failed(''), Measured::failed($error->getMessage())];
        }

        return view('tuning.rewrite-figures', ['before' => $without, 'after' => $with, 'verb' => 'saved']);
    }

    /** One suggestion, run beside the statement as it is. */
    public function instead(#[CurrentUser] User $user, string $key, string $way): View
    {
        [$cluster, $schema, $sql] = $this->asked->open($user, $key) ?? abort(404);
        $source = $this->runner($user, $cluster);
        try {
            $one =
                array_values(
                    array_filter($this->suggestions($user, $cluster, $schema, $sql), static fn (Suggestion $s): bool => $s->id === $way),
                )[0] ?? abort(404);
            $before = $source->measureWithout($sql, $schema, null);
            $after = $source->measureWithout($one->sql, $schema, null);
        } catch (SourceError|SyntaxError $error) {
            [$before, $after] = [Measured::failed(''), Measured::failed($error->getMessage())];
        }

        return view('tuning.rewrite-figures', ['before' => $before, 'after' => $after, 'verb' => 'would save']);
    }

    /**
     * @return list<Suggestion>
     */
    private function suggestions(User $user, Cluster $cluster, string $schema, string $sql): array
    {
        $tables = [];
        foreach ($this->reader->outlines($cluster) as $name => $layout) {
            foreach ($layout->definition->columns as $column) {
                $tables[$name][$column->name] = $column->type->kind->value;
            }
        }

        return (new Instead($tables, $cluster->dialect))->of($sql, $schema);
    }

    /**
     * @return list<Cluster>
     */
    private function clusters(): array
    {
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::productionFirst()->where('connector', 'practice')->get()->all();

        return $clusters;
    }

    private function runner(User $user, Cluster $cluster): ActingRunner
    {
        $runner = $this->clusters->for($user, 'rewrites')->runner($cluster);

        return $runner !== null && $runner->tellsRewrites() ? $runner : abort(404);
    }
}
