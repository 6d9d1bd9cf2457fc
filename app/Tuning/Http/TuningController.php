<?php

declare(strict_types=1);

namespace App\Tuning\Http;

use App\Estate\Models\Cluster;
use App\Ledger\Changes\Changes;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Changes\Refused;
use App\Ledger\Ledger;
use App\Ledger\Models\Change;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\ReportFile;
use App\Tuning\Application\ApplyChanges;
use App\Tuning\Application\RunTuning;
use App\Tuning\Charts\StairFigure;
use App\Tuning\Http\Requests\ApplyRemediesRequest;
use App\Tuning\Http\Requests\StartTuningRequest;
use App\Tuning\Models\TuningRun;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Facades\DB;

/**
 * Runs that go through all remedies for some statements.
 */
final readonly class TuningController
{
    private const WORST = 10;

    public function index(Request $request): View
    {
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::productionFirst()->where('connector', 'practice')->get()->all();
        $cluster = $clusters[0] ?? null;
        foreach ($clusters as $each) {
            $cluster = $each->slug === $request->query('cluster') ? $each : $cluster;
        }

        return view('tuning.tuning', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'runs' => TuningRun::query()->with('cluster')->orderByDesc('id')->limit(50)->get(),
            'candidates' => $cluster === null ? [] : self::heaviest($cluster, 40),
        ]);
    }

    public function start(StartTuningRequest $request, #[CurrentUser] User $user, Ledger $ledger): RedirectResponse
    {
        $data = $request->validated();
        $cluster = Cluster::query()->where('slug', $data['cluster'])->where('connector', 'practice')->firstOrFail();
        assert($cluster instanceof Cluster);
        $statements =
            $data['which'] === 'worst'
                ? array_column(self::heaviest($cluster, self::WORST), 'fingerprint')
                : array_values($data['statements']);
        if ($statements === []) {
            return redirect(address('tuning.index')."?cluster={$cluster->slug}")->withErrors([
                'statements' => 'No statement of the last week that reads is known here.',
            ]);
        }
        $atUs = $data['when'] === 'night' ? self::next((string) ($data['at'] ?? '02:00'), $user) : null;
        $run = TuningRun::query()->create([
            'cluster_id' => $cluster->id,
            'title' => $data['which'] === 'worst'
                    ? 'the worst '.count($statements).' of last week'
                    : count($statements).' chosen statements',
            'statements' => $statements,
            'limits' => [
                'minutes' => (int) $data['minutes'],
                'gib' => (float) $data['gib'],
                'apply' => $request->boolean('apply'),
                'atUs' => $atUs,
            ],
            'state' => $atUs === null ? 'waiting' : 'planned',
            'progress' => 'waiting for a worker',
            'asked_us' => Clock::microseconds(),
            'asked_by' => $user->name,
            'asked_by_id' => $user->id,
            'heartbeat_us' => Clock::microseconds(),
        ]);
        $ledger->record($user, 'asked for a tuning run', $run->title, [
            'cluster' => $cluster->slug,
            'apply' => $request->boolean('apply'),
            'minutes' => (int) $data['minutes'],
        ]);
        if ($atUs === null) {
            RunTuning::dispatch($run->id);
        }

        return redirect(address('tuning.show', $run->id));
    }

    public function show(Request $request, TuningRun $run): View
    {
        $run->load('cluster');
        if ($request->header('HX-Target') === 'tuning-progress') {
            return view('tuning.tuning-progress', ['run' => $run]);
        }

        return view('tuning.tuning-run', $this->data($run));
    }

    public function report(TuningRun $run, ReportFile $report): Response
    {
        $run->load('cluster');
        abort_if(count($run->steps['steps'] ?? []) < 2, 404);

        return $report->response('tuning.tuning-report', $this->data($run), "tuning-run-{$run->id}");
    }

    public function stop(TuningRun $run): RedirectResponse
    {
        $run->state === 'planned' ? $run->update(['state' => 'stopped', 'error' => 'Taken off the plan.']) : $run->askToStop();

        return redirect(address('tuning.show', $run->id));
    }

    /** Approves and applies what was kept and ticked, in the order it was tried. */
    public function apply(ApplyRemediesRequest $request, #[CurrentUser] User $user, TuningRun $run, Changes $changes): RedirectResponse
    {
        $data = $request->validated();
        $own = array_filter(array_column($run->steps['steps'] ?? [], 'change'), is_int(...));
        $wanted = array_values(array_intersect($own, array_map(intval(...), $data['changes'])));
        $approved = 0;
        foreach ($wanted as $id) {
            $change = Change::query()->find($id);
            try {
                if ($change instanceof Change && $change->state === ChangeState::Rehearsed) {
                    $changes->approve($change, $user);
                    $approved++;
                }
            } catch (Refused $error) {
                return redirect(address('tuning.show', $run->id))->with('failed', "{$change->title}: {$error->getMessage()}");
            }
        }
        ApplyChanges::dispatch($wanted, $user->id);

        return redirect(address('tuning.show', $run->id))->with(
            'done',
            ($approved === 1 ? 'One change is' : "{$approved} changes are").
                ' approved and applied one after the other; each can be undone by itself.',
        );
    }

    /**
     * @return array<string, mixed>
     */
    private function data(TuningRun $run): array
    {
        $steps = $run->steps['steps'] ?? [];
        $ids = array_filter(array_column($steps, 'change'), is_int(...));

        return [
            'run' => $run,
            'steps' => $steps,
            'lines' => $run->steps['lines'] ?? [],
            'figure' => count($steps) < 2 ? null : StairFigure::draw($steps),
            'changes' => Change::query()->whereIn('id', $ids)->get()->keyBy('id'),
        ];
    }

    /**
     * Statements that read and took most time in the last week.
     *
     * @return list<object{fingerprint: string, text: string, executions: int|float, duration_us: int|float}>
     */
    public static function heaviest(Cluster $cluster, int $most): array
    {
        $from = Clock::seconds() - 7 * 86_400;
        /** @var list<object{fingerprint: string, text: string, executions: int|float, duration_us: int|float}> $rows */
        $rows = DB::select(
            "SELECT s.fingerprint, s.text, SUM(l.executions) AS executions, SUM(l.duration_us) AS duration_us FROM load_day l JOIN
            statements s ON s.id = l.statement_id
            WHERE l.cluster_id = ? AND l.bucket_at >= ? AND (s.text LIKE 'SELECT%' OR s.text LIKE 'WITH%') GROUP BY s.fingerprint,
            s.text HAVING SUM(l.duration_us) / SUM(l.executions) < 60000000 ORDER BY duration_us DESC LIMIT {$most}",
            [$cluster->id, $from - ($from % 86_400)],
        );

        return $rows;
    }

    private static function next(string $time, User $user): int
    {
        $now = (new \DateTimeImmutable('@'.Clock::seconds()))->setTimezone($user->zone());
        [$hour, $minute] = array_map(intval(...), explode(':', $time));
        $at = $now->setTime($hour, $minute);

        return ($at <= $now ? $at->modify('+1 day') : $at)->getTimestamp() * 1_000_000;
    }
}
