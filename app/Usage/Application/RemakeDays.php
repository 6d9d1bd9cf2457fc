<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Estate\EstateCalendar;
use App\Estate\Models\Cluster;
use App\Platform\Runs\Progress;
use App\Platform\Support\Clock;
use App\Usage\Models\UsageRun;
use DateTimeZone;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Support\Facades\DB;

/**
 * Rebuilds a range of days; what is stopped half way stays as far as it came, and can be asked for again.
 */
final class RemakeDays implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly int $runId)
    {
    }

    public function handle(DayMaker $maker, EstateCalendar $calendars): void
    {
        $run = UsageRun::query()->find($this->runId);
        if ($run === null || $run->state !== 'waiting') {
            return;
        }
        $run->carryOut(static function (Progress $progress) use ($run, $maker, $calendars): array {
            if ($run->zone !== null) {
                return ['result' => self::regroup($run->zone, $calendars, $progress)];
            }
            $result = [];
            $clusters = Cluster::query()->orderBy('name')->get();
            foreach ($clusters as $i => $cluster) {
                $count = $maker->make(
                    $cluster,
                    $run->from_at,
                    $run->to_at,
                    Clock::seconds(),
                    true,
                    static fn (string $day, float $share) => $progress->checkpoint($day, ($i + $share) / count($clusters)),
                );
                $result[$cluster->name] = DayMaker::said($count) === '' ? 'no load of these days' : DayMaker::said($count);
            }

            return ['result' => $result];
        });
    }

    /**
     * All clusters or none, since all have the days of one zone.
     *
     * @return array<string, string> what became of the days, by cluster
     */
    private static function regroup(string $zone, EstateCalendar $calendars, Progress $progress): array
    {
        $progress->tell("putting hours into the days of {$zone}", 0.1);

        return DB::transaction(static function () use ($zone, $calendars): array {
            $calendars->set(new Calendar(new DateTimeZone($zone)));
            $facts = app(DayFacts::class);
            $result = [];
            foreach (Cluster::query()->orderBy('name')->get() as $cluster) {
                $facts->regroup($cluster, Clock::seconds());
                $result[$cluster->name] = "its days are those of {$zone}";
            }

            return $result;
        });
    }
}
