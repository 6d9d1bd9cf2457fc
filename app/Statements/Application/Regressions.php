<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceKind;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Ledger\Findings\WeightUnit;
use App\Platform\Support\Clock;
use DateTimeZone;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Time\Window;

/**
 * Keeps what stands out among statements and users as findings.
 */
final readonly class Regressions
{
    public const SOURCE = 'statements';

    /** Seconds of load a week below which nothing is worth a word. */
    private const LEAST_S = 60.0;

    public function __construct(private Anomalies $anomalies, private Findings $findings)
    {
    }

    /**
     * @return array{new: int, solved: int, open: int}
     */
    public function run(Cluster $cluster): array
    {
        $now = Clock::seconds();
        $end = $now - ($now % 300);
        $scope = new StatementScope($cluster, new Window($end - 7 * 86_400, $end), 'last 7 days', new DateTimeZone('UTC'));
        $reported = [];
        foreach ($this->anomalies->of($scope, $now) as $one) {
            // What became better needs no attention.
            if (
                in_array($one->kind, ['faster', 'reads less'], true) ||
                ($one->fingerprint !== null && $one->secondsPerWeek < self::LEAST_S)
            ) {
                continue;
            }
            $reported[] = new Reported(
                str_replace(' ', '-', $one->kind),
                $one->fingerprint !== null ? FindingSubject::statement($one->fingerprint) : FindingSubject::account((string) $one->user),
                Severity::of($one->state === 'act'),
                $one->sentence,
                [
                    new Evidence(
                        'what',
                        mb_strcut($one->subject, 0, 300),
                        $one->fingerprint === null ? EvidenceKind::Fact : EvidenceKind::Statement,
                    ),
                    new Evidence('load', Quantity::duration($one->secondsPerWeek * 1e6).' a week'),
                    new Evidence('look at', $one->window),
                ],
                Weight::of($one->secondsPerWeek * 1e6, WeightUnit::QueryTime),
                '',
            );
        }

        return $this->findings->reconcile($cluster, self::SOURCE, $reported);
    }
}
