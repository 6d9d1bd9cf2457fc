<?php

declare(strict_types=1);

namespace App\Limits\Application;

use App\Estate\Models\Cluster;
use App\Estate\Pricing\WrittenFlows;
use App\Platform\Support\Clock;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use Fulcrion\Core\Limits\Allowance;
use Fulcrion\Core\Limits\AllowanceMeasure;
use Fulcrion\Core\Limits\AllowanceOutlook;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Allowances of clusters, held against what was used.
 */
final readonly class Allowances
{
    /** Days that are looked ahead. */
    private const AHEAD = 62;

    public function __construct(private UsageReader $reader, private WrittenFlows $flows, private Calendar $calendar)
    {
    }

    /**
     * @return list<KeptAllowance> those that run out first
     */
    public function all(int $now): array
    {
        $clusters = Cluster::query()->get()->keyBy('id');
        $all = [];
        foreach (DB::table('allowances')->orderBy('id')->get() as $row) {
            $cluster = $clusters[$row->cluster_id] ?? null;
            if ($cluster !== null) {
                $all[] = $this->read($row, $cluster, $now);
            }
        }
        usort($all, static fn (KeptAllowance $a, KeptAllowance $b): int => [$a->outlook->runsOut() ?? PHP_INT_MAX, $a->id]
            <=> [$b->outlook->runsOut() ?? PHP_INT_MAX, $b->id]);

        return $all;
    }

    /**
     * @param  string|null  $price of one beyond it
     */
    public function add(
        Cluster $cluster,
        AllowanceMeasure $measure,
        Allowance $allowance,
        int $from,
        ?string $price,
        string $currency,
        string $by,
    ): int {
        return DB::table('allowances')->insertGetId([
            'cluster_id' => $cluster->id, 'measure' => $measure->value, 'per_day' => $allowance->perDay, 'cap' => $allowance->cap,
            'start' => $allowance->start, 'from_at' => $from, 'price' => $price, 'currency' => $currency, 'made_by' => $by,
            'made_us' => Clock::microseconds(),
        ]);
    }

    /** @return bool whether there was one */
    public function remove(int $id): bool
    {
        return DB::table('allowances')->where('id', $id)->delete() === 1;
    }

    private function read(stdClass $row, Cluster $cluster, int $now): KeptAllowance
    {
        $today = $this->calendar->day($now);
        $from = (int) $row->from_at;
        $measure = AllowanceMeasure::from($row->measure);
        [$inUse, $used] = $from >= $today ? [[], []] : $this->days($cluster, $measure, new Days($from, $today));

        return new KeptAllowance(
            (int) $row->id,
            $cluster,
            $measure,
            AllowanceOutlook::of(
                new Allowance((float) $row->per_day, (float) $row->cap, (float) $row->start),
                $from,
                $inUse,
                $used,
                self::AHEAD,
            ),
            $row->price === null ? null : (float) $row->price,
            (string) $row->currency,
            Days::month(gmdate('Y-m', $today)),
            (string) $row->made_by,
        );
    }

    /**
     * @return array{list<bool>, list<float>} whether anything ran, and what was used, day by day
     */
    private function days(Cluster $cluster, AllowanceMeasure $measure, Days $days): array
    {
        $sums = fn (UsageMeasure $one): array => array_map(
            array_sum(...),
            $this->reader->daily(UsageScope::within($days, $one, $cluster), $days, UsageField::Cluster),
        );
        $ran = $sums(UsageMeasure::Executions);
        $counted = $measure->usage();
        $written = $measure->written();
        $amounts = match (true) {
            $counted !== null => $sums($counted),
            $written !== null => $this->flows->daily($cluster, $written, $days),
            default => [],
        };
        $inUse = $used = [];
        foreach ($days->starts() as $day) {
            $inUse[] = ($ran[$day] ?? 0) > 0;
            $used[] = max(0.0, ($amounts[$day] ?? 0) / $measure->size());
        }

        return [$inUse, $used];
    }
}
