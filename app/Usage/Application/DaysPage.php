<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Estate\Models\Cluster;
use App\Platform\Figures\Figure;
use App\Usage\Charts\ClosedDaysFigure;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Which days of use are closed, which may still change, and which were corrected.
 */
final readonly class DaysPage
{
    private const SHOWN = 42;

    /**
     * @param  list<int>  $days start of each, oldest first
     * @param  array<string, array<int, stdClass>>  $known by cluster and day: closed_at, corrected_at
     */
    private function __construct(public array $days, public array $known)
    {
    }

    public static function of(int $now): self
    {
        $today = app(Calendar::class)->day($now);
        $from = $today - (self::SHOWN - 1) * Days::DAY;
        $known = [];
        foreach (Cluster::query()->orderBy('name')->get() as $cluster) {
            $known[$cluster->name] = DB::table('usage_days')
                ->where('cluster_id', $cluster->id)
                ->where('day_at', '>=', $from)
                ->get(['day_at', 'closed_at', 'corrected_at'])
                ->keyBy('day_at')
                ->all();
        }

        return new self(range($from, $today, Days::DAY), $known);
    }

    /** closed, open, corrected or none */
    public function state(string $cluster, int $day): string
    {
        $known = $this->known[$cluster][$day] ?? null;

        return match (true) {
            $known === null => 'none',
            $known->corrected_at !== null => 'corrected',
            $known->closed_at !== null => 'closed',
            default => 'open',
        };
    }

    /**
     * @return array<string, int> number of days of all clusters by state
     */
    public function count(): array
    {
        $count = ['closed' => 0, 'open' => 0, 'corrected' => 0, 'none' => 0];
        foreach (array_keys($this->known) as $cluster) {
            foreach ($this->days as $day) {
                $count[$this->state($cluster, $day)]++;
            }
        }

        return $count;
    }

    public function sentence(): string
    {
        $count = $this->count();
        $days = static fn (int $number): string => $number === 1 ? '1 day' : "{$number} days";
        if ($count['closed'] + $count['open'] + $count['corrected'] === 0) {
            return 'Nothing is known of use yet';
        }

        $closed = $count['closed'] + $count['corrected'];

        return "{$days($closed)} of use ".($closed === 1 ? 'is' : 'are').' closed'.
            ($count['corrected'] === 0 ? '' : ", {$count['corrected']} of them corrected since").
            ($count['open'] === 0 ? '' : "; {$days($count['open'])} may still change");
    }

    public function figure(): Figure
    {
        return ClosedDaysFigure::draw($this);
    }
}
