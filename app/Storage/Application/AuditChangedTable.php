<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Connectors\SourceError;
use App\Ledger\Events\ChangeCompleted;
use Fulcrion\Core\Storage\TableChangeKind;

/**
 * Holds a table against the house rules again right after it was changed, so that nobody works on what is solved.
 */
final readonly class AuditChangedTable
{
    public function __construct(private LayoutAudit $audit)
    {
    }

    public function handle(ChangeCompleted $event): void
    {
        if (TableChangeKind::tryFrom($event->change->kind) === null) {
            return;
        }
        try {
            $this->audit->run($event->change->cluster, [$event->change->object]);
        } catch (SourceError) {
            // The hourly audit sees to it.
        }
    }
}
