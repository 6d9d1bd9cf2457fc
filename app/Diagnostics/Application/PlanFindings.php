<?php

declare(strict_types=1);

namespace App\Diagnostics\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Ledger\Findings\WeightUnit;
use App\Platform\Support\Clock;
use App\Platform\Support\MomentStyle;
use App\Platform\Support\Sql;
use App\Telemetry\Store\PlanStore;
use App\Telemetry\Workload\Databases;
use DateTimeZone;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanAccess;
use Fulcrion\Core\Plans\PlanVeil;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Statements of live servers that run by another plan than before, and what was changed beside it.
 */
final readonly class PlanFindings
{
    private const RECENT_US = 86_400_000_000;

    private const BUCKET_US = 300_000_000;

    /** Means are compared over this long at most on either side. */
    private const SPAN_US = 86_400_000_000;

    private const MOST = 20;

    /** Times the mean duration from which it is worse. */
    private const SLOWER = 1.5;

    /** Where durations are not known yet: rows of a table that is read as a whole now. */
    private const LARGE_ROWS = 10_000;

    /** A definition changed up to so long before the old plan was seen last may only have taken hold afterwards. */
    private const SLACK_US = 120_000_000;

    public function __construct(private PlanStore $plans, private DefinitionChanges $definitions)
    {
    }

    /**
     * @return list<Reported>
     */
    public function of(Cluster $cluster): array
    {
        $reported = [];
        foreach ($this->changed($cluster) as $row) {
            $reported[] = $this->report($cluster, $row);
        }

        return $reported;
    }

    /**
     * Those whose plan of today was first seen after the last one before it was seen last. A statement that goes back and forth between
     * two has not changed its plan.
     *
     * @return list<stdClass>
     */
    private function changed(Cluster $cluster): array
    {
        return array_values(DB::select(
            'SELECT t.statement, s.id, s.text, t.takes, n.first_us, n.sealed AS after, o.last_us, o.sealed AS before_plan
            FROM plan_takes t
            JOIN plans n ON n.cluster_id = t.cluster_id AND n.statement = t.statement AND n.shape = t.shape
            JOIN plans o ON o.cluster_id = t.cluster_id AND o.statement = t.statement AND o.shape <> t.shape AND o.last_us < n.first_us
            JOIN statements s ON s.fingerprint = t.statement
            LEFT JOIN plans b ON b.cluster_id = t.cluster_id AND b.statement = t.statement AND b.shape <> t.shape AND b.last_us > o.last_us
            WHERE t.cluster_id = ? AND n.first_us >= ? AND b.id IS NULL ORDER BY n.first_us DESC, t.statement LIMIT '.self::MOST,
            [$cluster->id, Clock::microseconds() - self::RECENT_US],
        ));
    }

    private function report(Cluster $cluster, stdClass $row): Reported
    {
        $before = $this->plans->open($row->before_plan);
        $after = $this->plans->open($row->after);
        $lost = PlanAccess::lost($before, $after);
        $beforeUs = LatestLoad::meanUs($cluster, $row->statement, $row->last_us - self::SPAN_US, $row->last_us - self::BUCKET_US) ??
            LatestLoad::meanUs($cluster, $row->statement, $row->last_us - self::SPAN_US, (int) $row->last_us);
        $afterUs = LatestLoad::meanUs($cluster, $row->statement, (int) $row->first_us, Clock::microseconds() + self::BUCKET_US);
        $weekUs = LatestLoad::weekUs($cluster, [$row->statement])[$row->statement] ?? 0.0;
        $table = array_key_first($lost);
        // Small tables are read as a whole and looked up by turns, and nobody notices.
        $isKnown = $beforeUs !== null && $afterUs !== null;
        $isWorse = $isKnown ? $afterUs > self::SLOWER * $beforeUs : self::mostRows($after, array_keys($lost)) >= self::LARGE_ROWS;

        return new Reported(
            'plan-changed',
            FindingSubject::statement($row->statement),
            Severity::of($isWorse),
            ($table === null ? 'Runs by another plan' : "Reads {$table} as a whole, which it looked up by {$lost[$table]} before,").
                ' since '.moment((int) $row->first_us, MomentStyle::Minute, new DateTimeZone('UTC')).' UTC: '.Sql::line($row->text, 120),
            [
                LiveDiagnosis::statement('statement', $row->text),
                new Evidence('plan before', PlanAccess::told($before)),
                new Evidence('plan now', PlanAccess::told($after)),
                ...$beforeUs === null ? [] : [new Evidence('mean duration before', Quantity::duration($beforeUs))],
                ...$afterUs === null ? [] : [new Evidence('mean duration since', Quantity::duration($afterUs).
                    ', in whole intervals of five minutes')],
                ...$this->beside($cluster, $before, $after, $row),
                Evidence::remedy($lost === []
                    ? 'Compare the two plans on the page of the statement. Fresh statistics (ANALYZE TABLE) may bring the old one back.'
                    : 'Make the index again that was lost, or one that serves it as well; the page Indexes tries it on a copy first.'),
            ],
            Weight::of($weekUs, WeightUnit::QueryTime),
            '',
            urgent: $isWorse,
        );
    }

    /**
     * @param  list<string>  $tables
     */
    private static function mostRows(Plan $plan, array $tables): int
    {
        $most = 0;
        foreach ($plan->steps() as $step) {
            if ($step->table !== null && in_array($step->table->name, $tables, true)) {
                $most = max($most, $step->table->rows ?? 0);
            }
        }

        return $most;
    }

    /**
     * Definitions of its tables that were changed between the two.
     *
     * @return list<Evidence>
     */
    private function beside(Cluster $cluster, Plan $before, Plan $after, stdClass $row): array
    {
        $tables = [];
        foreach ([...PlanVeil::tables($before), ...PlanVeil::tables($after)] as $name) {
            $tables[] = substr((string) strrchr(".{$name}", '.'), 1);
        }
        $changes = $tables === [] ? [] : $this->definitions->between(
            $cluster,
            $row->last_us - self::SLACK_US,
            (int) $row->first_us,
            array_values(array_unique($tables)),
            Databases::of($cluster->id, [(int) $row->id], intdiv((int) $row->last_us, 1_000_000) - 7 * 86_400)[(int) $row->id] ?? '',
        );
        $told = [];
        foreach (array_slice($changes, 0, 3) as $change) {
            $told[] = LiveDiagnosis::statement(
                'definition changed '.moment((int) $change->at_us, MomentStyle::Second, new DateTimeZone('UTC')).' UTC'.
                    ($change->user === '' ? '' : " by {$change->user}"),
                $change->text,
            );
        }

        return $told;
    }
}
