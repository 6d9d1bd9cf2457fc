<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use App\Estate\Models\Cluster;
use App\Limits\Application\Allowances;
use App\Limits\Application\LimitBook;
use App\Limits\Application\LimitState;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use Fulcrion\Core\Limits\Act;
use Fulcrion\Core\Limits\Allowance;
use Fulcrion\Core\Limits\AllowanceMeasure;
use Fulcrion\Core\Limits\Limit;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\ScopeKind;
use Fulcrion\Core\Limits\Threshold;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Facades\DB;

/**
 * Limits and an allowance of the demo world: one limit in force that has room, one that waits to be tried on the past, in which the last
 * week would have passed it; and so much scanned each day that an allowance ends in about ten days.
 */
final readonly class DemoLimits
{
    private const DAYS = 27;

    private const ENDS_IN_DAYS = 10;

    private const LEFT_OUT = 0.9;

    public function __construct(
        private LimitBook $limits,
        private Allowances $allowances,
        private UsageReader $reader,
        private Calendar $calendar,
    ) {
    }

    public function write(int $now): void
    {
        $cluster = Cluster::query()->where('slug', 'fernhill')->first();
        if ($cluster === null || DB::table('limits')->exists()) {
            return;
        }
        $today = $this->calendar->day($now);
        $days = new Days($today - self::DAYS * Days::DAY, $today);
        $shares = [new Threshold(50, Act::Note), new Threshold(80, Act::Tell), new Threshold(100, Act::Hold)];
        $most = max([1, ...array_map(static fn (array $one): int => $one['boards'] ?? 0, $this->daily(UsageMeasure::Executions, $days))]);
        $boards = $this->limits->add(
            new Limit(LimitMeasure::Executions, ScopeKind::Team, 'boards', LimitPeriod::Day, 2 * $most, $shares),
            '',
            'boards@brackenfold.example',
            null,
            '',
            'Marta Ellwood',
        );
        $this->limits->switch($boards, LimitState::On);
        // A fifth more than the first weeks had, and well below the last one, in which the team reads twice as much.
        $weekly = [];
        foreach ($this->daily(UsageMeasure::Scanned, new Days($days->from, $today - Days::WEEK)) as $one) {
            $weekly[] = $one['forecast_lab'] ?? 0;
        }
        $usual = array_sum($weekly) / max(1, count($weekly)) * 7;
        $this->limits->add(
            new Limit(
                LimitMeasure::Bytes,
                ScopeKind::Team,
                'forecast_lab',
                LimitPeriod::Week,
                max(1, (int) round(1.2 * $usual / 1024 ** 4)) * 1024 ** 4,
                $shares,
            ),
            '',
            'forecast_lab@brackenfold.example',
            null,
            'Idris Pell',
            'Marta Ellwood',
        );
        $this->allowance($cluster, $days);
    }

    private function allowance(Cluster $cluster, Days $days): void
    {
        $used = array_map(
            static fn (array $one): float => array_sum($one) / AllowanceMeasure::ScannedTebibytes->size(),
            $this->daily(UsageMeasure::Scanned, $days, $cluster),
        );
        if ($used === []) {
            return;
        }
        $perDay = round(self::LEFT_OUT * array_sum($used) / count($used), 1);
        $recent = array_sum(array_slice($used, -7)) / 7;
        $start = ceil(array_sum($used) - $perDay * count($used) + self::ENDS_IN_DAYS * max(0.1, $recent - $perDay));
        $this->allowances->add(
            $cluster,
            AllowanceMeasure::ScannedTebibytes,
            new Allowance($perDay, ceil($start + 2 * $perDay), $start),
            $days->from,
            '2.40',
            'EUR',
            'Marta Ellwood',
        );
    }

    /**
     * @return array<int, array<string, int>> amount by team, by day
     */
    private function daily(UsageMeasure $measure, Days $days, ?Cluster $cluster = null): array
    {
        return $this->reader->daily(UsageScope::within($days, $measure, $cluster), $days, UsageField::Team);
    }
}
