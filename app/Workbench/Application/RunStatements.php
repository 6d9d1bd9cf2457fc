<?php

declare(strict_types=1);

namespace App\Workbench\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use Illuminate\Contracts\Queue\ShouldBeEncrypted;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Support\Str;
use Throwable;

/**
 * Runs the statements somebody sent from the workbench, one after the other, until one fails. It has a queue of its own,
 * so that no page waits behind it and it waits behind nothing that takes long.
 */
final class RunStatements implements ShouldBeEncrypted, ShouldQueue
{
    use Queueable;

    public const QUEUE = 'interactive';

    public int $timeout = 0;

    public int $tries = 1;

    /**
     * @param  string  $key of the first run; those behind it get their own
     * @param  list<array{int, string}>  $statements offset in the text, statement
     */
    public function __construct(
        public readonly string $key,
        public readonly int $userId,
        public readonly int $clusterId,
        public readonly string $schema,
        public readonly string $mode,
        public readonly array $statements,
    ) {
        $this->onQueue(self::QUEUE);
    }

    public function handle(Workbench $workbench, WorkbenchRuns $runs, Ledger $ledger): void
    {
        $user = User::query()->find($this->userId);
        $cluster = Cluster::query()->find($this->clusterId);
        if (! ($user instanceof User) || ! ($cluster instanceof Cluster) || $user->disabled_at !== null) {
            $runs->end($this->key, ['state' => 'failed', 'message' => 'The account or the cluster is gone.']);

            return;
        }
        $outcomes = [];
        foreach ($this->statements as $i => [$offset, $sql]) {
            $key = $i === 0 ? $this->key : (string) Str::uuid();
            [$result, $plan, $error, $notes] = $workbench->execute($key, $user, $cluster, $this->schema, $this->mode, $sql);
            $run = $runs->find($key, $user->id);
            if ($cluster->isLive()) {
                // A live server may answer with what people there wrote; who asked is noted.
                $ledger->record($user, 'ran a read on a live server', $cluster->name, [
                    'statement' => (string) $run?->statement,
                    'mode' => $this->mode,
                ]);
            }
            $outcomes[] = [
                'run' => $run,
                'sql' => $sql,
                'offset' => $offset,
                'result' => $result,
                'plan' => $plan,
                'error' => $error,
                'notes' => $notes,
            ];
            if ($error !== null) {
                break;
            }
        }
        $runs->keepOutcome($this->key, view('workbench.workbench-outcome', ['outcomes' => $outcomes, 'cluster' => $cluster])->render());
    }

    public function failed(?Throwable $exception): void
    {
        $runs = app(WorkbenchRuns::class);
        $runs->end($this->key, ['state' => 'failed', 'message' => 'The run broke off.']);
        $runs->keepOutcome($this->key, view('workbench.workbench-broken')->render());
    }
}
