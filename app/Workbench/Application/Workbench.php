<?php

declare(strict_types=1);

namespace App\Workbench\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Connectors\QueryResult;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Telemetry\Store\ExecutionBatch;
use App\Telemetry\Store\PlanStore;
use App\Telemetry\Store\Store;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\ExecutionOrigin;
use Fulcrion\Core\Telemetry\ExecutionOutcome;
use Fulcrion\Core\Telemetry\ExecutionWork;
use Fulcrion\Core\Telemetry\Status;
use Fulcrion\Core\Text\Parts;

/**
 * Runs a statement for a person, keeps its plan and result, and notes the execution like any other.
 */
final readonly class Workbench
{
    public const MODES = ['run', 'explain', 'actual'];

    public function __construct(private Clusters $clusters, private WorkbenchRuns $runs, private PlanStore $plans, private Store $store)
    {
    }

    /**
     * @return array{QueryResult|null, Plan|null, SourceError|null, list<string>} the last says what of the answer is left out or masked
     */
    public function execute(string $key, User $user, Cluster $cluster, string $schema, string $mode, string $sql): array
    {
        $this->runs->begin($key, $user, $cluster, $schema, $mode, $sql);
        $startedUs = Clock::microseconds();
        $runner = $this->clusters->for($user, 'workbench', true)->runner($cluster);
        $result = $plan = $error = null;
        $notes = [];
        $start = hrtime(true);
        try {
            if ($runner === null) {
                throw new SourceError("{$cluster->name} is known from files only; statements cannot be run on it.");
            }
            $cancelled = $this->runs->stop($key);
            if ($cancelled()) {
                throw new SourceError('Stopped before it began.', null, true);
            }
            $answer =
                $mode === 'run' ? $runner->run($sql, $schema, $cancelled) : $runner->plan($sql, $schema, $mode === 'actual', $cancelled);
            [$result, $plan, $notes] = [$answer->result, $answer->plan, $answer->notes];
        } catch (SourceError $exception) {
            $error = $exception;
        }
        $elapsedUs = intdiv((int) hrtime(true) - (int) $start, 1000);
        $planId = $plan === null ? null : $this->plans->keepOf($cluster, $sql, $plan, $mode === 'explain' ? 0 : 1);
        if ($result !== null && $result->columns !== []) {
            $this->runs->keepResult($key, $result);
        }
        $this->runs->end($key, [
            'state' => $error === null ? 'done' : ($error->stopped ? 'stopped' : 'failed'),
            'elapsed_us' => $elapsedUs,
            'modelled_us' => $plan !== null && $plan->modelled && $plan->actual ? $plan->sumUs() : null,
            'row_count' => $result === null ? null : ($result->columns === [] ? $result->rowsAffected : count($result->rows)),
            'cut' => $result->cut ?? false,
            'message' => $error?->getMessage() ?? $result?->message,
            'error_offset' => $error?->offset,
            'plan_id' => $planId,
        ]);
        // A live server is watched by its collector already; what runs on a practice cluster nobody else would note.
        if ($cluster->connector === 'practice' && $mode !== 'explain' && $error?->isHeld() !== true) {
            $this->note($cluster, $user, $schema, $sql, $startedUs, $elapsedUs, $plan, $result, $error);
        }

        return [$result, $plan, $error, $notes];
    }

    private function note(
        Cluster $cluster,
        User $user,
        string $schema,
        string $sql,
        int $startedUs,
        int $elapsedUs,
        ?Plan $plan,
        ?QueryResult $result,
        ?SourceError $error,
    ): void {
        $totals = $plan !== null && $plan->actual ? PlanTotals::of($plan) : null;
        $fingerprinter = new Fingerprinter($cluster->dialect);
        $batch = new ExecutionBatch();
        $batch->add(
            new Execution(
                $startedUs,
                $totals->durationUs ?? $elapsedUs,
                $sql,
                new ExecutionOrigin(
                    database: $schema,
                    user: Parts::first(Actor::login($user), 'workbench'),
                    application: 'workbench',
                ),
                new ExecutionOutcome(
                    $error === null ? Status::Ok : ($error->stopped ? Status::Cancelled : Status::Error),
                    $error?->getMessage(),
                ),
                work: new ExecutionWork(
                    $result === null ? null : count($result->rows),
                    $totals?->rowsExamined,
                    $result?->rowsAffected,
                    $totals?->bytesScanned,
                    $totals?->bytesSpilled,
                    fullScan: $totals?->fullScan,
                ),
                planRef: $plan?->fingerprint(),
            ),
            $fingerprinter->of($sql),
        );
        $this->store->write($cluster, $batch);
    }
}
