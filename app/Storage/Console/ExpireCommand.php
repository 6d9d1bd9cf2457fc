<?php

declare(strict_types=1);

namespace App\Storage\Console;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Ledger;
use App\Ledger\Models\Change;
use App\Platform\Support\Clock;
use Fulcrion\Core\Storage\TableSteps;
use Illuminate\Console\Command;

final class ExpireCommand extends Command
{
    protected $signature = 'storage:expire';

    protected $description = 'Drops tables that were kept for a grace period after a change';

    public function handle(Clusters $clusters, Ledger $ledger): int
    {
        /** @var list<Change> $changes */
        $changes = Change::query()
            ->where('state', ChangeState::Applied)
            ->where('doing', '')
            ->where('grace_until_us', '<', Clock::microseconds())
            ->get()
            ->all();
        foreach ($changes as $change) {
            try {
                $keeper = $clusters->as(Actor::system(SystemActor::Maintenance, 'tables kept by changes'))->keeper($change->cluster);
                if ($keeper !== null && $change->kept_table !== null) {
                    $keeper->apply(TableSteps::drop($change->kept_table), static fn (): bool => false);
                    $change->update(['grace_until_us' => null]);
                    $ledger->record(null, 'dropped a kept table', $change->kept_table, ['change' => $change->id]);
                }
            } catch (SourceError $error) {
                $this->warn("{$change->kept_table}: {$error->getMessage()}");
            }
        }

        return self::SUCCESS;
    }
}
