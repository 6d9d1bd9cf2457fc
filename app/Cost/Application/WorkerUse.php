<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use App\Estate\Teams\TeamDirectory;
use App\Telemetry\Usage\UsageField;
use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Fulcrion\Core\Cost\CostLine;
use Fulcrion\Core\Cost\PriceBook;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\TeamBook;
use Illuminate\Support\Facades\DB;

/**
 * Workers of parallel jobs: what they cost day by day, and whose they are. A worker is paid for from the start of a run to its end,
 * whether it works or waits.
 */
final readonly class WorkerUse
{
    /** What runs of jobs are called where what is asked for is known of statements only. */
    public const JOBS = "\0jobs";

    private const HOUR_US = 3_600_000_000;

    /**
     * @param  list<array{int, string, int}>  $parts start of the day, owner, microseconds of workers
     */
    private function __construct(private array $parts, private Calendar $calendar)
    {
    }

    /**
     * @param  int  $from Unix seconds
     * @param  int  $to end; runs that go on are counted up to it
     */
    public static function of(Cluster $cluster, int $from, int $to, Calendar $by): self
    {
        $parts = [];
        foreach (
            DB::table('job_runs')
                ->where('cluster_id', $cluster->id)
                ->whereIn('state', ['running', 'done', 'failed', 'stopped'])
                ->where('started_us', '>=', 0)
                ->where('started_us', '<', $to * 1_000_000)
                ->where(static fn ($q) => $q->where('ended_us', '<', 0)->orWhere('ended_us', '>', $from * 1_000_000))
                ->orderBy('id')
                ->get(['owner', 'workers', 'started_us', 'ended_us']) as $run
        ) {
            $end = (int) $run->ended_us < 0 ? $to * 1_000_000 : min((int) $run->ended_us, $to * 1_000_000);
            $at = max((int) $run->started_us, $from * 1_000_000);
            while ($at < $end) {
                $day = $by->day(intdiv($at, 1_000_000));
                $until = min($end, $by->end($day) * 1_000_000);
                $parts[] = [$day, (string) $run->owner, (int) $run->workers * ($until - $at)];
                $at = $until;
            }
        }

        return new self($parts, $by);
    }

    /**
     * Each day at the price its first moment has.
     *
     * @return list<CostLine>
     */
    public function lines(PriceBook $book, int $from, int $to): array
    {
        $days = [];
        foreach ($this->parts as [$day, , $us]) {
            $days[$day] = ($days[$day] ?? 0) + $us;
        }
        ksort($days);
        $lines = [];
        foreach ($days as $day => $us) {
            $hours = BigDecimal::of($us)->dividedBy(self::HOUR_US, PriceBook::SCALE, RoundingMode::HALF_EVEN);
            $begin = max($from, $this->calendar->begin($day));
            array_push($lines, ...$book->used(
                PriceKind::WorkerHour, '', $hours, BigDecimal::zero(), $begin, $begin, min($to, $this->calendar->end($day)),
            ));
        }

        return $lines;
    }

    /**
     * @return array<string, int> microseconds of workers by what it is by, before ClusterCost::SEPARATOR the team where it is wanted
     */
    public function by(UsageField $by, bool $withTeam): array
    {
        $book = $this->parts === [] ? null : new TeamBook(app(TeamDirectory::class)->memberships());
        $use = [];
        foreach ($this->parts as [$day, $owner, $us]) {
            $team = $book?->on($owner, $this->calendar->end($day)) ?? TeamBook::UNASSIGNED;
            $key = ($withTeam ? $team.ClusterCost::SEPARATOR : '').match ($by) {
                UsageField::Team => $team,
                UsageField::Person => $owner,
                default => self::JOBS,
            };
            $use[$key] = ($use[$key] ?? 0) + $us;
        }

        return $use;
    }
}
