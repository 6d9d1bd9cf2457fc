<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Alerts\Models\Alert;
use App\Estate\EstateCalendar;
use App\Estate\Models\Cluster;
use App\Metrics\Signals\SignalSources;
use App\Metrics\Store\SeriesBook;
use Fulcrion\Core\Alerts\AlertCourse;
use Fulcrion\Core\Alerts\AlertRing;
use Fulcrion\Core\Alerts\AlertScore;
use Fulcrion\Core\Alerts\IncidentReplay;
use Fulcrion\Core\Alerts\MarkedSpan;
use Fulcrion\Core\Alerts\QuietThreshold;
use Fulcrion\Core\Alerts\Watched;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;

/**
 * What an alert would have done in the last 28 days.
 */
final readonly class Rehearsal
{
    public const DAYS = 28;

    private const DAY = 86_400;

    /** Values that are gone through; of more hosts the steps are longer. */
    private const MOST_VALUES = 600_000;

    private const STEPS = [300, 3_600];

    /**
     * @param  array<array-key, list<float|null>>  $values one a step, by host
     * @param  list<AlertRing>  $rings
     * @param  list<MarkedSpan>  $marked
     * @param  float|null  $quietest threshold that catches all that is marked; null where nothing is, or none does
     */
    private function __construct(
        public int $from,
        public int $to,
        public int $step,
        public array $values,
        public array $rings,
        public array $marked,
        public AlertScore $score,
        public int $incidents,
        public int $words,
        public ?float $quietest,
    ) {
    }

    public static function of(Cluster $cluster, Alert $alert, AlertValues $values, EstateCalendar $calendar, int $now): self
    {
        $hosts = max(1, (new SeriesBook())->hosts($cluster->id));
        $steps = $alert->watched === Watched::DaysLeft ? [3_600] : self::STEPS;
        $step = array_values(array_filter($steps, static fn (int $one): bool => $one >= SignalSources::step($cluster)
            && self::DAYS * self::DAY / $one * $hosts <= self::MOST_VALUES))[0] ?? 3_600;
        $to = $now - $now % $step;
        $from = $to - self::DAYS * self::DAY;
        $read = $values->of($cluster, $alert->signal, $alert->host, $alert->watched, $from, $to, $step, $calendar->read()->zone);
        $condition = $alert->condition();
        $rings = AlertCourse::rings($condition, $read, $from, $step);
        $marked = self::marked($cluster->id, $from, $to);
        $incidents = IncidentReplay::of(['alert' => $rings]);

        return new self($from, $to, $step, $read, $rings, $marked, AlertScore::of($rings, $marked), count($incidents),
            array_sum(array_column($incidents, 1)),
            $marked === [] ? null : QuietThreshold::find($condition, $read, $from, $step, $marked));
    }

    /**
     * @return list<MarkedSpan> that touch a span
     */
    public static function marked(int $clusterId, int $from, int $to): array
    {
        $marked = [];
        foreach (DB::table('incident_marks')->where('cluster_id', $clusterId)->where('to_at', '>', $from)->where('from_at', '<', $to)
            ->orderBy('from_at')->get() as $row) {
            $marked[] = new MarkedSpan((int) $row->from_at, (int) $row->to_at, (string) $row->name);
        }

        return $marked;
    }

    public function isKnown(): bool
    {
        foreach ($this->values as $list) {
            foreach ($list as $value) {
                if ($value !== null) {
                    return true;
                }
            }
        }

        return false;
    }

    public function sentence(): string
    {
        if (! $this->isKnown()) {
            return 'Nothing of it is known of the last '.self::DAYS.' days';
        }
        $times = match ($this->incidents) {
            0 => 'It would not have rung in '.self::DAYS.' days',
            1 => 'It would have rung once in '.self::DAYS.' days',
            default => "It would have rung {$this->incidents} times in ".self::DAYS.' days',
        };
        $caught = count($this->score->caught);
        $all = count($this->marked);

        return $times.match (true) {
            $all === 0 => $this->incidents === 0 ? '' : ', for '.Quantity::duration($this->seconds() * 1e6).' in all',
            $caught === $all => $all === 1 ? ', and caught what was marked' : ", and caught all {$all} that were marked",
            default => ', and missed '.($all - $caught)." of {$all} that ".($all === 1 ? 'was' : 'were').' marked',
        };
    }

    /** In which anything rang. */
    public function seconds(): int
    {
        $sum = $until = 0;
        $rings = $this->rings;
        usort($rings, static fn (AlertRing $a, AlertRing $b): int => $a->from <=> $b->from);
        foreach ($rings as $ring) {
            $to = $ring->to ?? $this->to;
            $sum += max(0, $to - max($until, $ring->from));
            $until = max($until, $to);
        }

        return $sum;
    }
}
