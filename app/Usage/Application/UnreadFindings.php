<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceKind;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Ledger\Findings\WeightUnit;
use App\Platform\Support\MomentStyle;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\TableTouch;
use Fulcrion\Core\Usage\UnreadTable;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Statements that go on writing results nobody reads any more.
 */
final readonly class UnreadFindings
{
    public const SOURCE = 'unread';

    /** Of what ran longer ago nothing is said. */
    private const HISTORY_DAYS = 60;

    public function __construct(private Findings $findings, private Calendar $calendar)
    {
    }

    public function report(Cluster $cluster, int $now): void
    {
        $touches = array_map(
            fn (stdClass $row): TableTouch => new TableTouch(
                (string) $row->path,
                (string) $row->fingerprint,
                (bool) $row->is_read,
                (bool) $row->is_written,
                $this->calendar->day(intdiv((int) $row->last_us, 1_000_000)),
            ),
            DB::select(
                'SELECT t.path, s.fingerprint, t.is_read, t.is_written, p.last_us FROM statement_tables t JOIN statements s ON '
                    .'s.id = t.statement_id JOIN statement_presence p ON p.cluster_id = t.cluster_id AND p.statement_id = t.statement_id '
                    .'WHERE t.cluster_id = ? AND p.last_us >= ?',
                [$cluster->id, ($now - self::HISTORY_DAYS * Days::DAY) * 1_000_000],
            ),
        );
        $reported = [];
        foreach (UnreadTable::among(array_values($touches), $this->calendar->shown($now)) as $unread) {
            $reported[] = $this->reported($cluster, $unread, $this->calendar->shown($now));
        }
        $this->findings->reconcile($cluster, self::SOURCE, $reported);
    }

    /**
     * @param  int  $now as the clocks of the estate show it
     */
    private function reported(Cluster $cluster, UnreadTable $unread, int $now): Reported
    {
        $today = Days::start($now);
        $week = DB::table('usage_facts')
            ->join('statements', 'statements.id', '=', 'usage_facts.statement_id')
            ->join('origins', 'origins.id', '=', 'usage_facts.origin_id')
            ->where('cluster_id', $cluster->id)
            ->where('day_at', '>=', $today - 7 * Days::DAY)
            ->where('day_at', '<', $today)
            ->whereIn('fingerprint', $unread->writers)
            ->groupBy('fingerprint', 'text', 'user_name')
            ->orderByRaw('SUM(in_flight_us) DESC')
            ->get(['fingerprint', 'text', 'user_name', DB::raw('SUM(executions) AS executions'), DB::raw('SUM(in_flight_us) AS us')]);
        $us = (float) $week->sum('us');
        $people = $week->pluck('user_name')->unique()->values()->all();
        $since = onUtc($unread->lastReadAt, MomentStyle::ShortDay);

        return new Reported(
            'unread-results',
            FindingSubject::item($unread->table),
            Severity::Watch,
            "{$unread->table} is still written".($people === [] ? '' : ' by '.implode(', ', array_slice($people, 0, 3))).
                "; it was last read on {$since}",
            [
                new Evidence('last read', "{$since}, {$unread->days($now)} days ago"),
                new Evidence('written last week', Quantity::count((int) $week->sum('executions')).' times, '.
                    Quantity::duration($us).' in flight'),
                ...$week->pluck('text')->unique()->take(3)->map(
                    static fn (mixed $text): Evidence => new Evidence('written by', (string) $text, EvidenceKind::Statement),
                )->values()->all(),
                new Evidence('not seen', 'readers outside of this cluster, and statements whose history did not come here'),
                Evidence::remedy('Ask its owner whether anybody needs it. If nobody does, end the schedule and drop the table.'),
            ],
            Weight::of($us, WeightUnit::QueryTime),
            '',
            byStatementUs: $week->groupBy('fingerprint')->map(static fn ($rows): float => (float) $rows->sum('us'))->all(),
        );
    }
}
