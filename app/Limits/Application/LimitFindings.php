<?php

declare(strict_types=1);

namespace App\Limits\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Platform\Support\MomentStyle;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Support\Facades\DB;

/**
 * Limits that hold statements at present.
 */
final readonly class LimitFindings
{
    public const SOURCE = 'limit';

    public function __construct(
        private LimitBook $book,
        private LimitCounters $counters,
        private LimitActs $acts,
        private Findings $findings,
        private Calendar $calendar,
    ) {
    }

    /**
     * Takes up what was used elsewhere, and does what is to be done then.
     *
     * @return int letters that went into the outbox
     */
    public function check(int $now): int
    {
        $this->counters->sweep();
        $letters = 0;
        $reported = [];
        foreach ($this->book->all() as $limit) {
            if ($limit->state !== LimitState::On || $limit->limit->period === LimitPeriod::Statement) {
                continue;
            }
            [$period, $used] = $this->counters->sync($limit, $now);
            $letters += $this->acts->reach($limit, $period, $used);
            $holdsAt = $limit->limit->holdsAt();
            if ($holdsAt !== null && $used >= $holdsAt && ! $limit->isLifted($now * 1_000_000)) {
                $reported[$this->where($limit, $period)][] = $this->reported($limit, $period, $used);
            }
        }
        foreach (Cluster::query()->get() as $cluster) {
            $this->findings->reconcile($cluster, self::SOURCE, $reported[$cluster->id] ?? []);
        }

        return $letters;
    }

    /** Number of the cluster it held somebody on most lately; 0, which none has, as long as nobody has noticed it. */
    private function where(KeptLimit $limit, int $period): int
    {
        return (int) DB::table('limit_refusals')->where('limit_id', $limit->id)->where('from_at', $period)->orderByDesc('id')
            ->value('cluster_id');
    }

    private function reported(KeptLimit $limit, int $period, int $used): Reported
    {
        $held = DB::table('limit_refusals')->where('limit_id', $limit->id)->where('from_at', $period);
        $count = $held->count();
        $until = onClocks($this->calendar->begin($limit->limit->period->days($period)->to), MomentStyle::Minute);

        return new Reported(
            'limit-holds',
            FindingSubject::item("limit of {$limit->whose()}, number {$limit->id}"),
            Severity::Watch,
            "Statements of {$limit->whose()} are held until {$until}",
            [
                new Evidence('limit', $limit->title()),
                new Evidence('used', $limit->amount($used)),
                new Evidence('held so far', $count === 1 ? '1 statement' : "{$count} statements"),
                Evidence::remedy('Look at what used it up; an owner can lift the hold until a time, with a reason, or set another amount.'),
            ],
            Weight::none(),
            '',
        );
    }
}
