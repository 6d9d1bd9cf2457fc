<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceKind;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Telemetry\Workload\Advisor;
use App\Telemetry\Workload\EstateReader;
use Closure;
use Fulcrion\Core\Storage\HouseRules;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\TableCase;

/**
 * Holds all tables of a cluster against the house rules.
 */
final readonly class LayoutAudit
{
    public const SOURCE = 'storage';

    public function __construct(private EstateReader $reader, private Settings $settings, private Findings $findings)
    {
    }

    /**
     * @param  list<string>|null  $tables null for all
     * @param  (Closure(string): void)|null  $progress told the table
     * @return array{new: int, solved: int, open: int}|null null when the cluster does not tell how its tables lie
     *
     * @throws SourceError
     */
    public function run(Cluster $cluster, ?array $tables = null, ?Closure $progress = null): ?array
    {
        $source = $this->reader->source($cluster);
        if ($source === null) {
            return null;
        }
        $layouts = $this->reader->layouts($cluster);
        foreach (array_keys($layouts) as $name) {
            if ($tables === null || in_array($name, $tables, true)) {
                $layouts[$name] = $source->layout($name) ?? $layouts[$name];
            }
        }
        $estate = $this->reader->estate($cluster, $layouts);
        [$thresholds, $off] = $this->settings->of($cluster);
        $reported = [];
        foreach ($layouts as $name => $layout) {
            if ($tables !== null && ! in_array($name, $tables, true)) {
                continue;
            }
            if ($progress !== null) {
                $progress($name);
            }
            try {
                $sample = $source->sample($name, Advisor::SAMPLE);
            } catch (SourceError) {
                // Dropped or written anew since the list was made; the next audit sees it.
                continue;
            }
            foreach (HouseRules::check(new TableCase($layout, $estate, $sample), $thresholds, $off) as $finding) {
                $reported[] = self::reported($finding);
            }
        }

        return $this->findings->reconcile($cluster, self::SOURCE, $reported, $tables);
    }

    private static function reported(LayoutFinding $f): Reported
    {
        return new Reported(
            $f->rule,
            FindingSubject::read($f->object),
            Severity::of($f->act),
            $f->problem,
            array_map(
                static fn (array $one): Evidence => new Evidence(
                    $one[0],
                    $one[1],
                    in_array($one[0], LayoutFinding::QUOTING, true) ? EvidenceKind::Literal : EvidenceKind::Fact,
                ),
                $f->evidence,
            ),
            Weight::timeOrBytes($f->weightUs, $f->weightBytes),
            $f->remedy,
            $f->statements,
            $f->inverse,
            $f->weightBytes,
            $f->byStatementUs,
        );
    }
}
