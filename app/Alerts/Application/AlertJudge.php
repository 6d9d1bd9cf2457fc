<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Alerts\Models\Alert;
use App\Estate\EstateCalendar;
use App\Estate\Models\Cluster;
use App\Metrics\Places\PlaceError;
use App\Metrics\Signals\SignalSources;
use DateTimeZone;
use Fulcrion\Core\Alerts\AlertAdvance;
use Fulcrion\Core\Alerts\AlertCourse;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Log;
use InvalidArgumentException;
use Throwable;

/**
 * Holds every alert that is on against what came since it was judged last.
 */
final readonly class AlertJudge
{
    /** After a longer standstill what was before is left to rehearsals. */
    private const MOST_SECONDS = 6 * 3_600;

    private const LONGEST_ERROR = 500;

    public function __construct(
        private AlertValues $values,
        private SignalSources $sources,
        private IncidentBook $incidents,
        private EstateCalendar $calendars,
    ) {
    }

    /**
     * @return int alerts that were judged
     */
    public function judge(int $now): int
    {
        $this->values->forget();
        $zone = $this->calendars->read()->zone;
        $judged = [];
        foreach (Cluster::query()->orderBy('id')->get() as $cluster) {
            $alerts = Alert::query()->where('cluster_id', $cluster->id)->where('is_on', true)->orderBy('id')->get()->all();
            $step = SignalSources::step($cluster);
            $started = $ended = [];
            foreach ($alerts as $alert) {
                $to = $this->to($cluster, $alert, $now);
                $from = max($alert->judged_to ?? $to - self::enough($alert, $step), $to - self::MOST_SECONDS);
                if ($from >= $to) {
                    continue;
                }
                $advance = $this->advance($cluster, $alert, $from, $to, $step, $zone);
                if ($advance === null) {
                    continue;
                }
                $judged[$to][] = $alert->id;
                foreach ($advance->begun as $ring) {
                    $started[] = [$alert, $ring];
                }
                foreach ($advance->ended as $ring) {
                    $ended[] = [$alert, $ring];
                }
            }
            $this->incidents->take($cluster, $started, $ended, $this->clock($cluster, $alerts, $now), $now);
        }
        foreach ($judged as $to => $ids) {
            foreach (array_chunk($ids, 1_000) as $some) {
                DB::table('alerts')->whereIn('id', $some)->update(['judged_to' => $to]);
            }
        }

        return array_sum(array_map(count(...), $judged));
    }

    /** Second up to which all is known that an alert looks at. */
    private function to(Cluster $cluster, Alert $alert, int $now): int
    {
        $to = $now - $this->sources->delaySeconds($cluster, $alert->signal);

        return $to - $to % SignalSources::step($cluster);
    }

    /** One that is switched on while it has lasted long enough rings at once. */
    private static function enough(Alert $alert, int $step): int
    {
        return $step * (1 + intdiv($alert->for_seconds + $step - 1, $step));
    }

    /**
     * Second up to which all alerts of a cluster know what was.
     *
     * @param  array<array-key, Alert>  $alerts
     */
    private function clock(Cluster $cluster, array $alerts, int $now): int
    {
        return min([$now, ...array_map(fn (Alert $alert): int => $this->to($cluster, $alert, $now), $alerts)]);
    }

    private function advance(Cluster $cluster, Alert $alert, int $from, int $to, int $step, DateTimeZone $zone): ?AlertAdvance
    {
        try {
            $condition = $alert->condition();
            $values = $this->values->of($cluster, $alert->signal, $alert->host, $alert->watched, $from, $to, $step, $zone);
        } catch (Throwable $error) {
            // One that cannot be judged keeps no other from it.
            $isKnown = $error instanceof PlaceError || $error instanceof InvalidArgumentException;
            $isKnown ? null : Log::error('An alert cannot be judged', ['alert' => $alert->id, 'exception' => $error]);
            DB::table('alerts')->where('id', $alert->id)->update(['error' => $isKnown
                ? mb_strcut($error->getMessage(), 0, self::LONGEST_ERROR) : 'It cannot be judged: the log says why.']);

            return null;
        }
        $advance = AlertCourse::advance($condition, $alert->course(), $values, $from, $step);
        $written = Alert::written($advance->states);
        if ($written !== $alert->states || $alert->error !== null) {
            DB::table('alerts')->where('id', $alert->id)->update(['states' => $written, 'error' => null]);
        }

        return $advance;
    }
}
