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
use App\Platform\Support\Sql;
use Fulcrion\Core\Statements\Patterns\PatternKind;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * What applications ask more often than they need to, of the last hour.
 */
final readonly class PatternFindings
{
    private const RECENT_SECONDS = 3_600;

    private const WEEK_SECONDS = 604_800;

    private const MOST = 8;

    /** Time a week from which a repeated lookup is to be acted on. */
    private const HEAVY_US = 30_000_000;

    /**
     * @return list<Reported>
     */
    public function of(Cluster $cluster): array
    {
        $now = Clock::seconds();
        $reported = [];
        foreach (PatternKind::cases() as $kind) {
            $rows = DB::select(
                'SELECT p.statement, p.parent, c.text, m.text AS parent_text, p.rounds, p.times, p.interval_us, p.week_us FROM (
                    SELECT statement, parent, SUM(IF(bucket_at >= ?, rounds, 0)) AS rounds, SUM(IF(bucket_at >= ?, times, 0)) AS times,
                        MAX(interval_us) AS interval_us, SUM(duration_us) AS week_us
                    FROM statement_patterns WHERE cluster_id = ? AND kind = ? AND bucket_at >= ?
                    GROUP BY statement, parent HAVING times >= ? ORDER BY times DESC LIMIT '.self::MOST.'
                ) p JOIN statements c ON c.fingerprint = p.statement LEFT JOIN statements m ON m.fingerprint = p.parent
                ORDER BY p.times DESC, p.statement, p.parent',
                [
                    $now - self::RECENT_SECONDS, $now - self::RECENT_SECONDS, $cluster->id, $kind->value, $now - self::WEEK_SECONDS,
                    self::leastTimes($kind),
                ],
            );
            $seen = [];
            foreach ($rows as $row) {
                // Of one statement the way it is mostly asked.
                if (! isset($seen[$row->statement])) {
                    $seen[$row->statement] = true;
                    $reported[] = self::report($kind, $row);
                }
            }
        }

        return $reported;
    }

    private static function leastTimes(PatternKind $kind): int
    {
        return match ($kind) {
            PatternKind::RepeatedLookup => 100,
            PatternKind::Polling => 30,
            PatternKind::ReadBeforeInsert => 50,
        };
    }

    private static function report(PatternKind $kind, stdClass $row): Reported
    {
        $times = (int) $row->times;
        $counts = [
            new Evidence('runs in the last hour', Quantity::count($times).', as far as the server remembered single runs'),
            new Evidence('their time in the last seven days', Quantity::duration((float) $row->week_us)),
        ];
        $own = LiveDiagnosis::statement('statement', $row->text);
        $other = $row->parent_text === null ? null : $row->parent_text;
        [$problem, $evidence, $remedy] = match ($kind) {
            PatternKind::RepeatedLookup => [
                'Run once for each row of another statement (N+1), '.Quantity::digits($times / max(1, (int) $row->rounds)).
                    ' times after each',
                [
                    new Evidence('lists it followed', Quantity::count((int) $row->rounds)),
                    ...$counts,
                    $own,
                    ...$other === null ? [] : [LiveDiagnosis::statement('runs for each row of', $other)],
                ],
                'Ask for all of them at once: join the two statements, or give the keys of the list in one IN (...).',
            ],
            PatternKind::Polling => [
                'Asks the same every '.Quantity::duration((float) $row->interval_us).', mostly without an answer',
                [...$counts, $own],
                'Ask less often, let the application be told of what is new, or at least keep the question cheap by an index.',
            ],
            PatternKind::ReadBeforeInsert => [
                'Looks for a row before each INSERT of it',
                [...$counts, $own, ...$other === null ? [] : [LiveDiagnosis::statement('comes before', $other)]],
                'Put a unique key on what is looked for and use INSERT ... ON DUPLICATE KEY UPDATE or INSERT IGNORE: one statement '
                    .'instead of two, and no other session can come between them.',
            ],
        };

        return new Reported(
            $kind->value,
            FindingSubject::statement($row->statement),
            Severity::of($kind === PatternKind::RepeatedLookup && (float) $row->week_us >= self::HEAVY_US),
            $problem.': '.Sql::line($row->text, 120),
            [...$evidence, Evidence::remedy($remedy)],
            Weight::of((float) $row->week_us, WeightUnit::QueryTime),
            '',
        );
    }
}
