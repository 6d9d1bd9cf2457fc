<?php

declare(strict_types=1);

namespace App\Diagnostics\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceKind;
use App\Ledger\Findings\Findings;

/**
 * Turns what is known of a live server's statements into findings.
 */
final readonly class LiveDiagnosis
{
    public const SOURCE = 'live';

    public function __construct(
        private Findings $findings,
        private CounterFindings $counters,
        private PatternFindings $patterns,
        private PlanFindings $plans,
        private MissingTables $missing,
    ) {
    }

    public function of(Cluster $cluster): void
    {
        $load = LatestLoad::of($cluster);
        $this->findings->reconcile($cluster, self::SOURCE, [
            ...$this->counters->of($cluster, $load),
            ...$this->patterns->of($cluster),
            ...$this->plans->of($cluster),
            ...$this->missing->of($cluster, $load),
        ]);
    }

    public static function statement(string $label, string $text): Evidence
    {
        return new Evidence($label, mb_strcut($text, 0, 2000), EvidenceKind::Statement);
    }
}
