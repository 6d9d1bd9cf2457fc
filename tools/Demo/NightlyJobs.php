<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use Fulcrion\Practice\Jobs\JobPlan;
use Fulcrion\Practice\Jobs\StagePlan;

/**
 * The loaders' jobs of each night, with the troubles some of them have.
 */
final class NightlyJobs
{
    /** Days of the 28 since which a plan is bad (trouble 1) and a host slow (trouble 9). */
    public const BAD_PLAN_DAY = 17;

    public const SLOW_HOST_DAY = 22;

    public const SLOW_HOST = 7;

    public const PRICE = 0.11;

    /**
     * @return list<array{name: string, at: string, deadline: string|null, workers: int, aim: string, weekly: float, price: float|null}>
     */
    public static function all(): array
    {
        return [
            [
                'name' => 'climate-fold',
                'at' => '01:00',
                'deadline' => '04:00',
                'workers' => 960,
                'aim' => 'knee',
                'weekly' => 0.01,
                'price' => self::PRICE,
            ],
            [
                'name' => 'pick-summary',
                'at' => '01:10',
                'deadline' => '03:00',
                'workers' => 44,
                'aim' => 'deadline',
                'weekly' => 0.03,
                'price' => self::PRICE,
            ],
            [
                'name' => 'buyer-scorecards',
                'at' => '01:30',
                'deadline' => '04:00',
                'workers' => 240,
                'aim' => 'knee',
                'weekly' => 0.005,
                'price' => self::PRICE,
            ],
            [
                'name' => 'price-match',
                'at' => '02:00',
                'deadline' => '03:30',
                'workers' => 96,
                'aim' => 'deadline',
                'weekly' => 0.0,
                'price' => self::PRICE,
            ],
            [
                'name' => 'label-scan',
                'at' => '02:15',
                'deadline' => null,
                'workers' => 32,
                'aim' => 'knee',
                'weekly' => 0.0,
                'price' => self::PRICE,
            ],
            [
                'name' => 'meter-settlement',
                'at' => '02:30',
                'deadline' => '03:05',
                'workers' => 36,
                'aim' => 'deadline',
                'weekly' => 0.004,
                'price' => self::PRICE,
            ],
        ];
    }

    /** A job as it is on a day of the history, 1 to 28. */
    public static function plan(string $name, int $day): JobPlan
    {
        return match ($name) {
            'climate-fold' => self::climateFold(),
            'pick-summary' => self::pickSummary($day >= self::BAD_PLAN_DAY),
            'buyer-scorecards' => self::buyerScorecards(),
            'price-match' => self::priceMatch($day >= self::SLOW_HOST_DAY),
            'label-scan' => self::labelScan(),
            default => self::meterSettlement(),
        };
    }

    /** Twelve thousand tasks, of which few can run at once: five kinds one behind the other. */
    private static function climateFold(): JobPlan
    {
        $stages = $script = [];
        foreach (['temperature', 'humidity', 'co2', 'light', 'soil_moisture'] as $k => $kind) {
            $line = 6 * $k + 1;
            $before = $k === 0 ? [] : [['temperature', 'humidity', 'co2', 'light'][$k - 1].'-hours' => 'all'];
            array_push(
                $stages,
                new StagePlan(
                    "{$kind}-read",
                    "read {$kind}",
                    1200,
                    $before,
                    96.0,
                    170.0,
                    300.0,
                    0.25,
                    0.0,
                    0.9,
                    11_000,
                    4096.0,
                    'field.climate_reading',
                    [$line, $line],
                ),
                new StagePlan(
                    "{$kind}-clean",
                    "clean {$kind}",
                    800,
                    ["{$kind}-read" => 'fold'],
                    110.0,
                    60.0,
                    200.0,
                    0.2,
                    0.0,
                    0.7,
                    11_000,
                    4096.0,
                    '',
                    [$line + 1, $line + 1],
                ),
                new StagePlan(
                    "{$kind}-hours",
                    "{$kind} by hour",
                    300,
                    ["{$kind}-clean" => 'fold'],
                    180.0,
                    90.0,
                    300.0,
                    0.2,
                    0.0,
                    0.2,
                    11_000,
                    4096.0,
                    '',
                    [$line + 2, $line + 2],
                ),
                new StagePlan(
                    "{$kind}-days",
                    "{$kind} by day",
                    80,
                    ["{$kind}-hours" => 'all'],
                    140.0,
                    110.0,
                    300.0,
                    0.3,
                    0.0,
                    0.1,
                    11_000,
                    4096.0,
                    '',
                    [$line + 3, $line + 3],
                ),
                new StagePlan(
                    "{$kind}-weeks",
                    "{$kind} by week",
                    15,
                    ["{$kind}-days" => 'all'],
                    80.0,
                    150.0,
                    400.0,
                    0.2,
                    0.0,
                    0.1,
                    11_000,
                    4096.0,
                    '',
                    [$line + 4, $line + 4],
                ),
                new StagePlan(
                    "{$kind}-publish",
                    "publish {$kind}",
                    5,
                    ["{$kind}-weeks" => 'all'],
                    30.0,
                    120.0,
                    900.0,
                    0.1,
                    0.0,
                    1.0,
                    11_000,
                    4096.0,
                    '',
                    [$line + 5, $line + 5],
                ),
            );
            array_push(
                $script,
                "r{$k} = read field.climate_reading where kind = '{$kind}'",
                "c{$k} = clean r{$k}",
                "h{$k} = fold c{$k} by bay, hour",
                "d{$k} = fold h{$k} by glasshouse, day",
                "w{$k} = fold d{$k} by region, week",
                "publish w{$k}",
            );
        }

        return new JobPlan('climate-fold', implode("\n", $script), $stages);
    }

    /** In time until its join went the wrong way. */
    private static function pickSummary(bool $badPlan): JobPlan
    {
        return new JobPlan(
            'pick-summary',
            "p = read field.harvest_pick\nv = read ref.variety, ref.bay\nj = join p, v on variety_id, bay_id\ns = fold j by bay, "
                ."variety, day\nc = fold s by crew, week\npublish s, c",
            [
                new StagePlan('picks', 'read picks', 1900, [], 420.0, 105.0, 400.0, 0.3, 0.0, 0.8, 8000, 4096.0, 'field.harvest_pick', [
                    1,
                    1,
                ]),
                new StagePlan('reference', 'read reference', 40, [], 12.0, 120.0, 300.0, 0.2, 0.0, 1.0, 8000, 4096.0, 'ref.bay', [2, 2]),
                new StagePlan(
                    'join',
                    'join',
                    1600,
                    ['picks' => 'fold', 'reference' => 'all'],
                    400.0,
                    36.0,
                    300.0,
                    0.25,
                    0.0,
                    0.8,
                    8000,
                    4096.0,
                    '',
                    [3, 3],
                ),
                new StagePlan(
                    'summary',
                    'summary by bay and day',
                    900,
                    ['join' => 'all'],
                    560.0,
                    105.0,
                    300.0,
                    0.3,
                    0.0,
                    0.2,
                    8000,
                    4096.0,
                    '',
                    [4, 4],
                ),
                new StagePlan(
                    'crews',
                    'summary by crew and week',
                    340,
                    ['summary' => 'all'],
                    220.0,
                    95.0,
                    300.0,
                    0.3,
                    0.0,
                    0.2,
                    8000,
                    4096.0,
                    '',
                    [5, 5],
                ),
                new StagePlan(
                    'publish',
                    'publish',
                    20,
                    ['summary' => 'all', 'crews' => 'all'],
                    110.0,
                    90.0,
                    800.0,
                    0.1,
                    0.0,
                    1.0,
                    8000,
                    4096.0,
                    '',
                    [6, 6],
                ),
            ],
            slower: $badPlan ? ['join' => 6.0] : [],
        );
    }

    /** One buyer takes more than all others. */
    private static function buyerScorecards(): JobPlan
    {
        return new JobPlan(
            'buyer-scorecards',
            "s = read trade.pallet_shipment\no = read trade.price_offer\nb = group s, o by buyer\nc = score b\npublish c",
            [
                new StagePlan(
                    'shipments',
                    'read shipments',
                    1100,
                    [],
                    150.0,
                    130.0,
                    300.0,
                    0.25,
                    0.0,
                    0.9,
                    7000,
                    4096.0,
                    'trade.pallet_shipment',
                    [1, 1],
                ),
                new StagePlan('offers', 'read offers', 500, [], 70.0, 130.0, 300.0, 0.25, 0.0, 0.9, 7000, 4096.0, 'trade.price_offer', [
                    2,
                    2,
                ]),
                new StagePlan(
                    'buyers',
                    'group by buyer',
                    560,
                    ['shipments' => 'all', 'offers' => 'all'],
                    160.0,
                    70.0,
                    300.0,
                    0.5,
                    0.09,
                    0.6,
                    7000,
                    2048.0,
                    '',
                    [3, 3],
                ),
                new StagePlan('score', 'score', 220, ['buyers' => 'all'], 90.0, 190.0, 500.0, 0.3, 0.0, 0.1, 7000, 4096.0, '', [4, 4]),
                new StagePlan('publish', 'publish', 20, ['score' => 'all'], 40.0, 90.0, 700.0, 0.1, 0.0, 1.0, 7000, 4096.0, '', [5, 5]),
            ],
        );
    }

    /** Its neighbours on one host wait for half a disk. */
    private static function priceMatch(bool $slowHost): JobPlan
    {
        return new JobPlan(
            'price-match',
            "o = read trade.price_offer\nm = match o with market\nr = rank m\npublish r",
            [
                new StagePlan('offers', 'read offers', 1400, [], 190.0, 150.0, 300.0, 0.25, 0.0, 0.9, 7000, 4096.0, 'trade.price_offer', [
                    1,
                    1,
                ]),
                new StagePlan('match', 'match', 1100, ['offers' => 'fold'], 230.0, 140.0, 300.0, 0.25, 0.0, 0.7, 7000, 4096.0, '', [2, 2]),
                new StagePlan('rank', 'rank', 480, ['match' => 'all'], 200.0, 120.0, 300.0, 0.25, 0.0, 0.3, 7000, 4096.0, '', [3, 3]),
                new StagePlan('publish', 'publish', 20, ['rank' => 'all'], 60.0, 90.0, 800.0, 0.1, 0.0, 1.0, 7000, 4096.0, '', [4, 4]),
            ],
            slowHosts: $slowHost ? [self::SLOW_HOST => 2.6] : [],
        );
    }

    /** Six thousand tasks that are hardly anything. */
    private static function labelScan(): JobPlan
    {
        return new JobPlan(
            'label-scan',
            "t = list tables\ns = sample t\nl = look for labels in s\npublish l",
            [
                new StagePlan('list', 'list tables', 4, [], 2.0, 200.0, 700.0, 0.1, 0.0, 1.0, 500, 4096.0, '', [1, 1]),
                new StagePlan(
                    'sample',
                    'sample columns',
                    3200,
                    ['list' => 'all'],
                    1.5,
                    260.0,
                    120.0,
                    0.3,
                    0.0,
                    1.0,
                    500,
                    4096.0,
                    'all schemas',
                    [2, 2],
                ),
                new StagePlan('look', 'look for labels', 3200, ['sample' => 'same'], 1.5, 190.0, 90.0, 0.3, 0.0, 0.1, 500, 4096.0, '', [
                    3,
                    3,
                ]),
                new StagePlan('publish', 'publish', 8, ['look' => 'all'], 10.0, 90.0, 500.0, 0.1, 0.0, 1.0, 500, 4096.0, '', [4, 4]),
            ],
            startUpMs: 12_000,
            overheadMs: 420.0,
        );
    }

    /** As it should be. */
    private static function meterSettlement(): JobPlan
    {
        return new JobPlan(
            'meter-settlement',
            "m = read energy.meter_reading\nt = price m with energy.tariff\nb = bill t by glasshouse\npublish b",
            [
                new StagePlan('meters', 'read meters', 420, [], 260.0, 150.0, 300.0, 0.2, 0.0, 0.9, 9000, 4096.0, 'energy.meter_reading', [
                    1,
                    1,
                ]),
                new StagePlan('price', 'price', 250, ['meters' => 'fold'], 380.0, 110.0, 300.0, 0.2, 0.0, 0.8, 9000, 4096.0, '', [2, 2]),
                new StagePlan('bill', 'bill by glasshouse', 110, ['price' => 'all'], 240.0, 110.0, 300.0, 0.2, 0.0, 0.2, 9000, 4096.0, '', [
                    3,
                    3,
                ]),
                new StagePlan('publish', 'publish', 20, ['bill' => 'all'], 40.0, 90.0, 500.0, 0.1, 0.0, 1.0, 9000, 4096.0, '', [4, 4]),
            ],
        );
    }
}
