<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

/**
 * The statements of Brackenfold Growers: about 420, made from the tables of the cooperative and the questions its teams ask.
 */
final class Repertoire
{
    private const MS = 1_000;

    private const S = 1_000_000;

    private const MIB = 1_048_576;

    /** Troubles that later measurements look for by name. */
    public const PICK_SUMMARY = 'pick-summary';

    public const CROSS_JOIN = 'cross-join';

    public const DASHBOARD = 'dashboard';

    /** Column of a large table that says when. */
    private const TIMES = [
        'climate_reading' => 'read_at',
        'irrigation_event' => 'started_at',
        'harvest_pick' => 'picked_at',
        'pallet_shipment' => 'left_at',
        'price_offer' => 'offered_at',
        'meter_reading' => 'metered_at',
    ];

    /**
     * @return list<DemoStatement>
     */
    public static function all(): array
    {
        return [
            ...self::boards(),
            ...self::loaders(),
            ...self::agronomy(),
            ...self::packhouse(),
            ...self::energy(),
            ...self::growers(),
            ...self::lab(),
            ...self::platform(),
        ];
    }

    /**
     * @return list<DemoStatement>
     */
    private static function boards(): array
    {
        $all = [];
        foreach (
            [
                "SELECT bay_id, date_trunc('day', read_at) AS day, avg(value) AS mean_value FROM field.climate_reading WHERE "
                    ."sensor_kind = 'temperature' AND read_at >= date '{from}' GROUP BY bay_id, date_trunc('day', read_at)",
                "SELECT bay_id, date_trunc('day', read_at) AS day, avg(value) AS mean_value, max(value) AS peak FROM "
                    ."field.climate_reading WHERE sensor_kind = 'humidity' AND read_at >= date '{from}' GROUP BY bay_id, "
                    ."date_trunc('day', read_at)",
                "SELECT b.glasshouse_id, date_trunc('day', r.read_at) AS day, avg(r.value) AS mean_value FROM field.climate_reading r "
                    ."JOIN ref.bay b ON b.bay_id = r.bay_id WHERE r.read_at >= date '{from}' GROUP BY b.glasshouse_id, "
                    ."date_trunc('day', r.read_at)",
                "SELECT site, date_trunc('day', metered_at) AS day, sum(kwh) AS kwh FROM energy.meter_reading WHERE metered_at >= date "
                    ."'{from}' GROUP BY site, date_trunc('day', metered_at)",
                "SELECT medium, date_trunc('day', metered_at) AS day, sum(kwh) AS kwh, max(kwh) AS peak FROM energy.meter_reading WHERE "
                    ."metered_at >= date '{from}' GROUP BY medium, date_trunc('day', metered_at)",
            ] as $i => $sql
        ) {
            $climate = $i < 3;
            $all[] = new DemoStatement(
                $sql,
                'boards',
                'wall-boards',
                $climate ? 'field' : 'energy',
                ($climate ? 2_600 : 1_150) * self::MS,
                $climate ? 1_200_000 : 300_000,
                $climate ? 2_576 : 322,
                ($climate ? 780 : 210) * self::MIB,
                0,
                true,
                5,
                -1,
                1.0,
                self::DASHBOARD,
            );
        }
        $all[] = new DemoStatement(
            'SELECT r.bay_id, avg(r.value) AS mean_value FROM field.climate_reading r JOIN ref.calendar_day c ON c.day = cast(r.read_at '
                .'AS date) WHERE c.year = {year} AND c.week = {weekno} GROUP BY r.bay_id',
            'boards',
            'wall-boards',
            'field',
            1_900 * self::MS,
            1_204_000,
            1,
            690 * self::MIB,
            0,
            true,
            60,
        );
        foreach (
            [
                ['trade', 'SELECT count(*) FROM trade.pallet_shipment WHERE left_at >= timestamp \'{lately}\'', 38],
                [
                    'trade',
                    'SELECT buyer_id, count(*) AS pallets FROM trade.pallet_shipment WHERE left_at >= timestamp \'{lately}\' GROUP BY '
                        .'buyer_id',
                    74,
                ],
                [
                    'trade',
                    'SELECT state, count(*) AS pallets FROM trade.pallet_shipment WHERE left_at >= timestamp \'{lately}\' GROUP BY state',
                    52,
                ],
                ['field', 'SELECT sum(kilos) AS kilos FROM field.harvest_pick WHERE picked_at >= timestamp \'{lately}\'', 61],
                [
                    'field',
                    'SELECT variety_id, sum(kilos) AS kilos FROM field.harvest_pick WHERE picked_at >= timestamp \'{lately}\' GROUP BY '
                        .'variety_id',
                    88,
                ],
                [
                    'field',
                    'SELECT bay_id, max(read_at) AS last_read FROM field.climate_reading WHERE read_at >= timestamp \'{lately}\' GROUP '
                        .'BY bay_id',
                    96,
                ],
                ['field', 'SELECT count(*) FROM field.irrigation_event WHERE started_at >= timestamp \'{lately}\' AND litres > {n}', 44],
                [
                    'field',
                    'SELECT bay_id, sum(litres) AS litres FROM field.irrigation_event WHERE started_at >= timestamp \'{lately}\' GROUP '
                        .'BY bay_id ORDER BY litres DESC LIMIT 10',
                    57,
                ],
                [
                    'energy',
                    'SELECT tariff_id, price FROM energy.tariff WHERE valid_from <= date \'{day}\' AND valid_to > date \'{day}\'',
                    6,
                ],
                [
                    'energy',
                    'SELECT site, max(kwh) AS peak FROM energy.meter_reading WHERE metered_at >= timestamp \'{lately}\' GROUP BY site',
                    49,
                ],
                ['ref', 'SELECT glasshouse_id, name, region FROM ref.glasshouse ORDER BY name', 4],
                // Reads all of its table; seldom enough not to be a trouble on any day of the week.
                ['trade', 'SELECT avg(price) FROM trade.price_offer WHERE offered_at >= timestamp \'{lately}\'', 31, 15],
            ] as $one
        ) {
            [$schema, $sql, $ms] = $one;
            $all[] = new DemoStatement(
                $sql,
                'boards',
                'wall-boards',
                $schema,
                $ms * self::MS,
                $ms * 900,
                max(1, intdiv($ms, 4)),
                intdiv($ms, 3) * self::MIB,
                0,
                false,
                $one[3] ?? 5,
            );
        }

        return $all;
    }

    /**
     * @return list<DemoStatement>
     */
    private static function loaders(): array
    {
        $all = [
            new DemoStatement(
                "INSERT INTO field.climate_reading (bay_id, sensor_kind, read_at, value) VALUES ({bay}, 'temperature', '{day}', {n}), "
                    ."({bay}, 'humidity', '{day}', {n})",
                'loaders',
                'sensor-feed',
                'field',
                180 * self::MS,
                0,
                0,
                0,
                150,
                false,
                5,
            ),
            new DemoStatement(
                "INSERT INTO energy.meter_reading (site, medium, metered_at, kwh) VALUES ('{site}', 'heat', '{day}', {n}), ('{site}', "
                    ."'light', '{day}', {n})",
                'loaders',
                'sensor-feed',
                'energy',
                95 * self::MS,
                0,
                0,
                0,
                40,
                false,
                10,
            ),
            new DemoStatement(
                "INSERT INTO field.pick_summary SELECT p.bay_id, p.variety_id, p.crew_member_id, date_trunc('day', p.picked_at), "
                    .'sum(p.kilos), count(*) FROM field.harvest_pick p JOIN ref.bay b ON b.bay_id = p.bay_id JOIN trade.pallet_shipment '
                    ."s ON s.bay_id = p.bay_id AND s.left_at >= p.picked_at WHERE p.picked_at >= date '{eve}' AND s.left_at >= date "
                    ."'{eve}' GROUP BY p.bay_id, p.variety_id, p.crew_member_id, date_trunc('day', p.picked_at)",
                'loaders',
                'night-loader',
                'field',
                235 * self::S,
                5_600_000,
                0,
                9_800 * self::MIB,
                14_200,
                true,
                0,
                95,
                1.0,
                self::PICK_SUMMARY,
            ),
            new DemoStatement(
                "DELETE FROM field.pick_summary WHERE day = date '{day}'",
                'loaders',
                'night-loader',
                'field',
                4 * self::S,
                15_000,
                0,
                60 * self::MIB,
                14_200,
                false,
                0,
                90,
            ),
        ];
        $minute = 62;
        foreach (
            [
                'field' => ['climate_reading', 'irrigation_event', 'harvest_pick'],
                'trade' => ['pallet_shipment', 'buyer', 'price_offer'],
                'energy' => ['meter_reading', 'tariff'],
                'people' => ['grower', 'crew_member'],
                'ref' => ['bay', 'glasshouse', 'variety'],
            ] as $schema => $tables
        ) {
            foreach ($tables as $i => $table) {
                $heavy = in_array($table, ['climate_reading', 'harvest_pick', 'pallet_shipment', 'meter_reading'], true);
                $all[] = new DemoStatement(
                    "COPY {$schema}.{$table} FROM 'inbox/{$table}_{key}.csv' WITH (format = 'csv', header = true)",
                    'loaders',
                    'night-loader',
                    $schema,
                    ($heavy ? 95 : 12) * self::S,
                    0,
                    0,
                    0,
                    $heavy ? 40_000 : 800,
                    false,
                    0,
                    $minute,
                );
                $all[] = new DemoStatement(
                    "CREATE TABLE {$schema}.stage_{$table}_{key} AS SELECT DISTINCT * FROM {$schema}.{$table}".
                        (isset(self::TIMES[$table]) ? ' WHERE '.self::TIMES[$table]." >= '{eve}'" : ''),
                    'loaders',
                    'night-loader',
                    $schema,
                    ($heavy ? 48 : 5) * self::S,
                    $heavy ? 260_000 : 6_000,
                    0,
                    ($heavy ? 420 : 8) * self::MIB,
                    $heavy ? 41_000 : 900,
                    $heavy,
                    0,
                    $minute + 4,
                );
                $all[] = new DemoStatement(
                    "DROP TABLE {$schema}.stage_{$table}_{key}",
                    'loaders',
                    'night-loader',
                    $schema,
                    40 * self::MS,
                    0,
                    0,
                    0,
                    0,
                    false,
                    0,
                    $minute + 9,
                );
                $minute += 6 + $i;
            }
        }

        return $all;
    }

    /**
     * @return list<DemoStatement>
     */
    private static function agronomy(): array
    {
        $all = [];
        foreach (['temperature', 'humidity', 'co2', 'light', 'soil_moisture'] as $k => $kind) {
            foreach (
                [
                    [
                        "SELECT read_at, value AS {$kind} FROM field.climate_reading WHERE bay_id = {bay} AND sensor_kind = "
                            ."'temperature' AND read_at BETWEEN '{from}' AND '{day}' ORDER BY read_at",
                        130,
                        26_000,
                        1_900,
                    ],
                    [
                        "SELECT b.bay_id, min(r.value) AS {$kind}_low, max(r.value) AS {$kind}_high FROM field.climate_reading r JOIN "
                            ."ref.bay b USING (bay_id) WHERE b.glasshouse_id = {house} AND r.read_at >= '{day}' GROUP BY b.bay_id",
                        310,
                        64_000,
                        24,
                    ],
                    [
                        "SELECT v.name, avg(r.value) AS {$kind} FROM field.climate_reading r JOIN ref.bay b USING (bay_id) JOIN "
                            ."ref.variety v USING (variety_id) WHERE r.read_at >= '{from}' GROUP BY v.name ORDER BY v.name",
                        1_450,
                        410_000,
                        18,
                    ],
                    [
                        "SELECT extract(hour FROM read_at) AS hour, avg(value) AS {$kind} FROM field.climate_reading WHERE bay_id IN "
                            ."({bay}, {bay}, {bay}) AND read_at >= '{from}' GROUP BY extract(hour FROM read_at)",
                        520,
                        98_000,
                        24,
                    ],
                    [
                        "SELECT bay_id, count(*) AS {$kind}_alarms FROM field.climate_reading WHERE value > {n} AND read_at >= '{day}' "
                            .'GROUP BY bay_id HAVING count(*) > {n}',
                        270,
                        70_000,
                        12,
                    ],
                    [
                        "SELECT p.bay_id, sum(p.kilos) AS kilos, avg(r.value) AS {$kind} FROM field.harvest_pick p JOIN "
                            ."field.climate_reading r ON r.bay_id = p.bay_id AND r.read_at = p.picked_at WHERE p.picked_at >= '{from}' "
                            .'GROUP BY p.bay_id',
                        3_900,
                        900_000,
                        180,
                    ],
                    [
                        "WITH daily AS (SELECT bay_id, date_trunc('day', read_at) AS day, avg(value) AS {$kind} FROM "
                            ."field.climate_reading WHERE read_at >= '{from}' GROUP BY bay_id, date_trunc('day', read_at)) SELECT day, "
                            ."min({$kind}), max({$kind}) FROM daily GROUP BY day",
                        2_100,
                        620_000,
                        14,
                    ],
                ] as [$sql, $ms, $examined, $returned]
            ) {
                $all[] = new DemoStatement(
                    $sql,
                    'agronomy',
                    $k % 2 === 0 ? 'bay-explorer' : 'canopy-notes',
                    'field',
                    $ms * self::MS,
                    $examined,
                    $returned,
                    $examined * 40,
                    0,
                    $examined > 500_000,
                    0,
                    -1,
                    9.0 / (1 + $ms / 200),
                );
            }
        }
        foreach (['litres', 'minutes', 'pressure', 'drain_share'] as $column) {
            foreach (['bay_id', 'valve_id', 'recipe_id', "date_trunc('day', started_at)"] as $group) {
                $all[] = new DemoStatement(
                    "SELECT {$group}, sum({$column}) FROM field.irrigation_event WHERE started_at >= '{from}' GROUP BY {$group} ORDER "
                        .'BY 2 DESC',
                    'agronomy',
                    'bay-explorer',
                    'field',
                    210 * self::MS,
                    38_000,
                    140,
                    3 * self::MIB,
                    0,
                    false,
                    0,
                    -1,
                    2.0,
                );
            }
        }
        $all[] = new DemoStatement(
            "SELECT avg(value) FROM field.climate_reading WHERE cast(read_at AS date) = date '{day}' AND sensor_kind = 'co2'",
            'agronomy',
            'canopy-notes',
            'field',
            2_700 * self::MS,
            1_200_000,
            1,
            740 * self::MIB,
            0,
            true,
            0,
            -1,
            2.5,
        );

        return $all;
    }

    /**
     * @return list<DemoStatement>
     */
    private static function packhouse(): array
    {
        $all = [];
        foreach (['bay_id', 'variety_id', 'crew_member_id', 'glasshouse_id', 'grade', 'crate_size'] as $i => $group) {
            foreach (
                [
                    [
                        "SELECT {$group}, sum(kilos) AS kilos FROM field.harvest_pick WHERE picked_at >= '{day}' GROUP BY {$group}",
                        240,
                        31_000,
                        60,
                    ],
                    [
                        "SELECT {$group}, count(*) AS picks, avg(kilos) AS mean_kilos FROM field.harvest_pick WHERE picked_at BETWEEN "
                            ."'{from}' AND '{day}' GROUP BY {$group} ORDER BY picks DESC LIMIT {some}",
                        460,
                        88_000,
                        25,
                    ],
                    [
                        "SELECT p.{$group}, sum(p.kilos) AS kilos FROM field.harvest_pick p JOIN ref.bay b USING (bay_id) WHERE "
                            ."b.glasshouse_id = {house} AND p.picked_at >= '{day}' GROUP BY p.{$group}",
                        380,
                        46_000,
                        18,
                    ],
                    [
                        "SELECT s.pallet_id, s.{$group}, s.left_at FROM trade.pallet_shipment s WHERE s.buyer_id = {n} AND s.left_at >= "
                            ."'{day}' ORDER BY s.left_at DESC LIMIT {some}",
                        120,
                        8_000,
                        40,
                    ],
                    [
                        "SELECT s.{$group}, count(*) AS pallets, sum(s.kilos) AS kilos FROM trade.pallet_shipment s WHERE s.left_at >= "
                            ."'{from}' GROUP BY s.{$group}",
                        330,
                        52_000,
                        30,
                    ],
                    ["UPDATE trade.pallet_shipment SET {$group} = {n} WHERE pallet_id = {id}", 28, 1, 0],
                    [
                        "SELECT p.{$group}, s.state, sum(p.kilos) FROM field.harvest_pick p JOIN trade.pallet_shipment s ON s.bay_id = "
                            ."p.bay_id AND cast(s.left_at AS date) = cast(p.picked_at AS date) WHERE p.picked_at >= '{day}' GROUP BY "
                            ."p.{$group}, s.state",
                        1_150,
                        210_000,
                        75,
                    ],
                    [
                        "SELECT c.name, sum(p.kilos) AS kilos, p.{$group} FROM field.harvest_pick p JOIN people.crew_member c USING "
                            ."(crew_member_id) WHERE p.picked_at >= '{day}' GROUP BY c.name, p.{$group} ORDER BY kilos DESC",
                        690,
                        58_000,
                        120,
                    ],
                ] as [$sql, $ms, $examined, $returned]
            ) {
                $all[] = new DemoStatement(
                    $sql,
                    'packhouse',
                    $i % 2 === 0 ? 'pick-planner' : 'dock-desk',
                    str_contains($sql, 'field.') ? 'field' : 'trade',
                    $ms * self::MS,
                    $examined,
                    $returned,
                    $examined * 34,
                    str_starts_with($sql, 'UPDATE') ? 1 : 0,
                    false,
                    0,
                    -1,
                    7.0 / (1 + $ms / 250),
                );
            }
        }

        return $all;
    }

    /**
     * @return list<DemoStatement>
     */
    private static function energy(): array
    {
        $all = [];
        foreach (['heat', 'light', 'pump', 'cool', 'co2'] as $i => $medium) {
            foreach (['site', 'tariff_id', 'meter_id', "date_trunc('hour', metered_at)"] as $group) {
                foreach (
                    [
                        [
                            "SELECT {$group}, sum(kwh) AS {$medium}_kwh FROM energy.meter_reading WHERE medium = 'heat' AND metered_at "
                                .">= '{from}' GROUP BY {$group}",
                            640,
                            110_000,
                            44,
                        ],
                        [
                            "SELECT {$group}, max(kwh) AS {$medium}_peak FROM energy.meter_reading WHERE metered_at >= '{day}' GROUP "
                                ."BY {$group} ORDER BY 2 DESC LIMIT {some}",
                            280,
                            36_000,
                            20,
                        ],
                        [
                            "SELECT m.{$group}, sum(m.kwh * t.price) AS {$medium}_cost FROM energy.meter_reading m JOIN energy.tariff t "
                                .'ON t.tariff_id = m.tariff_id AND m.metered_at >= t.valid_from AND m.metered_at < t.valid_to WHERE '
                                ."m.metered_at >= '{from}' GROUP BY m.{$group}",
                            1_700,
                            300_000,
                            36,
                        ],
                    ] as [$sql, $ms, $examined, $returned]
                ) {
                    $all[] = new DemoStatement(
                        str_replace('m.date_trunc(\'hour\', metered_at)', "date_trunc('hour', m.metered_at)", $sql),
                        'energy_desk',
                        $i % 2 === 0 ? 'heat-ledger' : 'tariff-watch',
                        'energy',
                        $ms * self::MS,
                        $examined,
                        $returned,
                        $examined * 620,
                        0,
                        $examined >= 300_000,
                        0,
                        -1,
                        6.0 / (1 + $ms / 300),
                    );
                }
            }
        }

        return $all;
    }

    /**
     * @return list<DemoStatement>
     */
    private static function growers(): array
    {
        $all = [];
        foreach (['name', 'region', 'joined_on', 'letter_language', 'contact_person'] as $column) {
            foreach (
                [
                    ["SELECT grower_id, {$column} FROM people.grower WHERE grower_id = {id}", 9, 1, 1],
                    ["SELECT {$column}, count(*) FROM people.grower GROUP BY {$column}", 32, 1_200, 30],
                    [
                        "SELECT g.{$column}, sum(s.kilos) AS kilos FROM people.grower g JOIN trade.pallet_shipment s ON s.grower_id = "
                            ."g.grower_id WHERE s.left_at >= '{from}' GROUP BY g.{$column}",
                        820,
                        150_000,
                        90,
                    ],
                    [
                        "SELECT g.{$column}, o.price FROM people.grower g JOIN trade.price_offer o ON o.grower_id = g.grower_id WHERE "
                            ."o.offered_at >= '{day}' ORDER BY o.price DESC LIMIT {some}",
                        540,
                        62_000,
                        50,
                    ],
                    ["UPDATE people.grower SET {$column} = '{site}' WHERE grower_id = {id}", 17, 1, 0],
                    [
                        "SELECT b.name, g.{$column}, count(*) AS pallets FROM trade.pallet_shipment s JOIN trade.buyer b ON b.buyer_id "
                            ."= s.buyer_id JOIN people.grower g ON g.grower_id = s.grower_id WHERE s.left_at >= '{from}' GROUP BY "
                            ."b.name, g.{$column}",
                        1_250,
                        160_000,
                        240,
                    ],
                ] as [$sql, $ms, $examined, $returned]
            ) {
                $all[] = new DemoStatement(
                    $sql,
                    'grower_relations',
                    'grower-letters',
                    str_contains($sql, 'trade.') ? 'trade' : 'people',
                    $ms * self::MS,
                    $examined,
                    $returned,
                    $examined * 58,
                    str_starts_with($sql, 'UPDATE') ? 1 : 0,
                    false,
                    0,
                    -1,
                    3.0 / (1 + $ms / 300),
                );
            }
        }

        return $all;
    }

    /**
     * @return list<DemoStatement>
     */
    private static function lab(): array
    {
        $all = [
            new DemoStatement(
                "SELECT r.bay_id, r.value, p.kilos FROM field.climate_reading r, field.harvest_pick p WHERE r.read_at >= '{from}' AND "
                    ."p.picked_at >= '{from}' ORDER BY r.value * p.kilos DESC LIMIT 1000",
                'forecast_lab',
                'lab-session',
                'field',
                3_100 * self::S,
                17_800_000_000,
                1_000,
                118_000 * self::MIB,
                0,
                true,
                0,
                -1,
                0.0,
                self::CROSS_JOIN,
            ),
        ];
        foreach (['kilos', 'value', 'kwh', 'price', 'litres', 'pallets'] as $i => $target) {
            foreach (['temperature', 'humidity', 'light', 'co2', 'soil_moisture'] as $j => $signal) {
                foreach (
                    [
                        [
                            "SELECT k.bay_id, k.day, k.kilos AS {$target}, c.value AS {$signal} FROM (SELECT bay_id, date_trunc('day', "
                                ."picked_at) AS day, sum(kilos) AS kilos FROM field.harvest_pick WHERE picked_at >= '{from}' GROUP BY "
                                ."1, 2) k JOIN (SELECT bay_id, date_trunc('day', read_at) AS day, avg(value) AS value FROM "
                                ."field.climate_reading WHERE read_at >= '{from}' GROUP BY 1, 2) c ON c.bay_id = k.bay_id AND c.day = "
                                .'k.day',
                            9_400,
                            1_600_000,
                            4_200,
                        ],
                        [
                            "SELECT bay_id, read_at, value AS {$signal}_{$target}, lag(value) OVER (PARTITION BY bay_id ORDER BY "
                                ."read_at) AS before FROM field.climate_reading WHERE read_at >= '{week}' AND sensor_kind = 'temperature'",
                            6_800,
                            1_200_000,
                            120_000,
                        ],
                        [
                            "CREATE TABLE field.tmp_{$target}_{$signal}_{key} AS SELECT bay_id, read_at, value FROM "
                                ."field.climate_reading WHERE read_at >= '{from}' AND value IS NOT NULL",
                            7_900,
                            1_200_000,
                            0,
                        ],
                        [
                            'WITH k AS (SELECT bay_id, cast(picked_at AS date) AS day, sum(kilos) AS kilos FROM field.harvest_pick '
                                ."WHERE picked_at >= '{from}' GROUP BY bay_id, cast(picked_at AS date)), c AS (SELECT bay_id, "
                                .'cast(read_at AS date) AS day, avg(value) AS value FROM field.climate_reading WHERE sensor_kind = '
                                ."'light' GROUP BY bay_id, cast(read_at AS date)) SELECT avg(k.kilos * c.value) - avg(k.kilos) * "
                                ."avg(c.value) AS {$target}_{$signal} FROM k JOIN c ON c.bay_id = k.bay_id AND c.day = k.day",
                            11_500,
                            1_600_000,
                            1,
                        ],
                    ] as $k => [$sql, $ms, $examined, $returned]
                ) {
                    $all[] = new DemoStatement(
                        $sql,
                        'forecast_lab',
                        ($i + $j + $k) % 3 === 0 ? 'model-runner' : 'lab-session',
                        'field',
                        $ms * self::MS,
                        $examined,
                        $returned,
                        $examined * 900,
                        str_starts_with($sql, 'CREATE') ? 120_000 : 0,
                        true,
                        0,
                        -1,
                        1.0 + (($i * 7 + $j * 3 + $k) % 5),
                    );
                }
            }
        }

        return $all;
    }

    /**
     * @return list<DemoStatement>
     */
    private static function platform(): array
    {
        $all = [];
        foreach (
            [
                'field.climate_reading',
                'field.harvest_pick',
                'field.irrigation_event',
                'trade.pallet_shipment',
                'trade.buyer',
                'trade.price_offer',
                'energy.meter_reading',
                'energy.tariff',
                'people.grower',
                'people.crew_member',
                'ref.calendar_day',
                'ref.bay',
                'ref.glasshouse',
                'ref.variety',
                'ref.region_tree',
            ] as $table
        ) {
            $schema = explode('.', $table)[0];
            $all[] = new DemoStatement(
                "SELECT count(*) FROM {$table}",
                'platform',
                'console',
                $schema,
                90 * self::MS,
                50_000,
                1,
                self::MIB,
                0,
                true,
                0,
                -1,
                1.0,
            );
            $all[] = new DemoStatement(
                "ANALYZE {$table}",
                'platform',
                'console',
                $schema,
                5 * self::S,
                80_000,
                0,
                40 * self::MIB,
                0,
                true,
                0,
                -1,
                0.15,
            );
            $all[] = new DemoStatement(
                "SELECT * FROM {$table} LIMIT {some}",
                'platform',
                'console',
                $schema,
                22 * self::MS,
                100,
                100,
                65_536,
                0,
                false,
                0,
                -1,
                1.6,
            );
        }

        return $all;
    }
}
