<?php

declare(strict_types=1);

namespace App\Storage;

use App\Ledger\Changes\ChangeKind;
use App\Ledger\Changes\ChangeKinds;
use App\Ledger\Events\ChangeCompleted;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Storage\Application\AuditChangedTable;
use App\Storage\Application\LayoutAudit;
use App\Storage\Application\TableExecutor;
use Fulcrion\Core\Storage\TableChangeKind;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Support\Facades\Event;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(FindingSources::class, $this->findings(...));
        $this->callAfterResolving(ChangeKinds::class, $this->changes(...));
        Event::listen(ChangeCompleted::class, AuditChangedTable::class);
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Tune, 'layout', 'Layout', 'layout.index', 'Improve'),
            new Page(Bench::Tune, 'rollups', 'Rollups and lookups', 'rollup.index', 'Improve'),
        ];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('storage:expire')->hourlyAt(20)->withoutOverlapping(30);
        $schedule->command('storage:audit')->hourlyAt(7)->withoutOverlapping(50);
        $schedule->command('storage:maintain')->everyFiveMinutes()->withoutOverlapping(120);
        $schedule->command('storage:refresh')->everyFiveMinutes()->withoutOverlapping(60);
    }

    private function findings(FindingSources $sources): void
    {
        $sources->register(new FindingSource(
            LayoutAudit::SOURCE,
            acts: 'storage.finding-acts',
            home: static fn (Finding $finding): array => [
                $finding->subject()->name, address('layout.show', [$finding->cluster->slug, $finding->subject()->name]),
            ],
            rule: static fn (Finding $finding): string => address('layout.rule', $finding->rule),
        ));
    }

    private function changes(ChangeKinds $kinds): void
    {
        foreach (TableChangeKind::cases() as $kind) {
            $undoing = match ($kind) {
                TableChangeKind::Rebuild => 'The old table is kept for seven days; undoing gives it its name back. If rows came in '
                    .'meanwhile, or it is gone, its layout is made again from the rows there are then. The contents are compared before '
                    .'names are swapped.',
                TableChangeKind::Statistics => 'It cannot be undone, and need not be: new statistics describe the table better than the '
                    .'old ones.',
                default => null,
            };
            $rewritten = static fn (Change $change): string =>
                "Filters of statement {$change->expected['statement']} that wrapped a column were said as spans of it.";
            $kinds->register(new ChangeKind(
                $kind->value,
                TableExecutor::class,
                estimates: $kind === TableChangeKind::Statistics,
                undoing: static fn (): ?string => $undoing,
                handedOn: $kind === TableChangeKind::Rewrite ? $rewritten : null,
            ));
        }
    }
}
