<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Alerts\Models\Incident;
use App\Alerts\Models\Ring;
use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Platform\Support\MomentStyle;
use DateTimeZone;

/**
 * Open incidents among all that waits for somebody.
 */
final readonly class IncidentFindings
{
    public const SOURCE = 'incidents';

    public function __construct(private Findings $findings)
    {
    }

    public function report(Cluster $cluster): void
    {
        $reported = [];
        foreach (Incident::open()->where('cluster_id', $cluster->id)->orderBy('id')->get() as $incident) {
            $reported[] = new Reported(
                'incident',
                FindingSubject::item("incident {$incident->id}"),
                Severity::of($incident->is_urgent),
                $incident->title,
                [
                    new Evidence('since', moment($incident->opened_at * 1_000_000, MomentStyle::Minute, new DateTimeZone('UTC')).' UTC'),
                    ...array_map(static fn (Ring $ring): Evidence => new Evidence($ring->alert_name, $ring->said),
                        $incident->rings()->orderBy('rang_at')->limit(12)->get()->all()),
                ],
                Weight::none(),
                '',
                urgent: $incident->is_urgent && $incident->taken_at === null,
            );
        }
        $this->findings->reconcile($cluster, self::SOURCE, $reported);
    }
}
