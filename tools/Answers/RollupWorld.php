<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Answers;

use Random\Randomizer;

/**
 * Readings of some bays with rollups and a lookup beside them, and statements at random that may be answered from those:
 * the same statement with and without them has to give the same rows.
 */
final readonly class RollupWorld
{
    public const ROLLUPS = [
        'daily' => "SELECT bay, kind, date_trunc('day', at) AS day, count(*), sum(value), avg(value), min(value), max(value), "
            ."count(note), approx_count_distinct(note) FROM s.reading GROUP BY bay, kind, date_trunc('day', at)",
        'hourly' => "SELECT bay, date_trunc('hour', at) AS hour, sum(value), count(value), sum(amount), max(amount) FROM s.reading "
            ."WHERE kind = 'warm' GROUP BY bay, date_trunc('hour', at)",
        'by_house' => 'SELECT b.house, r.kind, cast(r.at AS date) AS day, sum(r.amount), avg(r.amount), sum(r.value) FILTER (WHERE '
            .'r.value > 20), count(*) FROM s.reading r JOIN s.bay b ON b.id = r.bay GROUP BY b.house, r.kind, cast(r.at AS date)',
        'visits' => 'SELECT bay, cast(at AS date) AS day, mood, sum(length), avg(length) FROM s.visit GROUP BY bay, cast(at AS date), mood',
        'by_month' => "SELECT kind, date_trunc('month', at) AS month, sum(amount), count(amount), min(at), max(at) FROM s.reading GROUP "
            ."BY kind, date_trunc('month', at)",
    ];

    private const MOMENTS = [
        "date_trunc('hour', r.at)",
        "date_trunc('day', r.at)",
        "date_trunc('week', r.at)",
        "date_trunc('month', r.at)",
        "date_trunc('quarter', r.at)",
        'cast(r.at AS date)',
        'extract(hour FROM r.at)',
        'extract(month FROM r.at)',
        'extract(dow FROM r.at)',
    ];

    private const MEASURES = [
        'count(*)',
        'sum(r.value)',
        'avg(r.value)',
        'min(r.value)',
        'max(r.value)',
        'count(r.note)',
        'count(r.value)',
        'approx_count_distinct(r.note)',
        'sum(r.amount)',
        'avg(r.amount)',
        'max(r.amount)',
        'count(r.amount)',
        'count(DISTINCT r.kind)',
        'min(r.at)',
        'max(r.kind)',
        'sum(r.value) FILTER (WHERE r.value > 20)',
        "sum(r.value) FILTER (WHERE r.kind = 'warm')",
        'count(DISTINCT r.note)',
        'max(r.value) - min(r.value)',
        'sum(r.value * 2)',
        'approx_count_distinct(r.bay)',
    ];

    private const FILTERS = [
        "r.kind = 'warm'",
        "r.kind IN ('warm', 'damp')",
        'r.bay < 5',
        'r.bay IN (1, 2, 7)',
        "r.at >= date '2026-02-03'",
        "r.at < timestamp '2026-03-01 00:00:00'",
        "r.at >= timestamp '2026-02-10 06:00:00'",
        "r.at BETWEEN timestamp '2026-01-15 00:00:00' AND timestamp '2026-02-20 23:59:59.999999'",
        "cast(r.at AS date) = date '2026-02-11'",
        "date_trunc('month', r.at) = timestamp '2026-02-01 00:00:00'",
        'r.value > 22',
        'r.amount IS NOT NULL',
        "r.at > timestamp '2026-02-10 06:30:00'",
        "r.at BETWEEN timestamp '2026-01-20 07:10:00' AND timestamp '2026-02-25 00:00:00'",
        "r.at < timestamp '2026-03-20 13:20:00'",
        "r.at BETWEEN timestamp '2026-02-03 07:10:00' AND timestamp '2026-02-03 17:10:00'",
        'extract(dow FROM r.at) = 1',
        'r.kind IS NULL',
        "r.at <= timestamp '2026-02-28 00:00:00'",
        'r.bay IS NOT NULL',
    ];

    public function __construct(private Randomizer $random)
    {
    }

    /**
     * @return list<string> that make the tables with their rows
     */
    public function tables(int $rows): array
    {
        $sql = [
            'CREATE SCHEMA IF NOT EXISTS s',
            'CREATE TABLE s.reading (id bigint NOT NULL, bay bigint, kind text, at timestamp NOT NULL, value bigint, amount decimal(10, '
                .'2), note text) PLACED BY (bay) CUT BY MONTH OF at SORTED BY (at) CHUNKS OF 300 ROWS',
            'CREATE TABLE s.bay (id bigint NOT NULL, house text, area bigint) PLACED EVERYWHERE',
            'CREATE TABLE s.calendar (day date NOT NULL, week bigint, season text) PLACED EVERYWHERE',
            'CREATE TABLE s.visit (id bigint NOT NULL, bay bigint, at timestamp NOT NULL, mood text, length bigint) PLACED BY (id) '
                .'CHUNKS OF 200 ROWS',
            'INSERT INTO s.visit VALUES '.
            implode(
                ', ',
                array_map(
                    fn (int $i): string => "({$i}, ".
                        $this->random->getInt(0, 9).
                        ", timestamp '".
                        gmdate('Y-m-d H:i:s', 1_767_225_600 + $this->random->getInt(0, 29) * 259_200 + $this->random->getInt(0, 7) * 3600).
                        "', '".
                        ['calm', 'loud'][$i % 2].
                        "', ".
                        ($i % 9 === 0 ? 'NULL' : (string) $this->random->getInt(1, 90)).
                        ')',
                    range(1, 500),
                ),
            ),
            'INSERT INTO s.bay VALUES '.
            implode(', ', array_map(static fn (int $i): string => "({$i}, 'h".$i % 3 ."', ".$i * 10 .')', range(0, 9))),
            'INSERT INTO s.calendar VALUES '.
            implode(
                ', ',
                array_map(
                    static fn (int $i): string => "(DATE '2025-12-01' + INTERVAL {$i} DAY, ".
                        intdiv($i, 7).
                        ", '".
                        ['cold', 'mild', 'hot'][intdiv($i, 50) % 3].
                        "')",
                    range(0, 160),
                ),
            ),
        ];
        for ($done = 0; $done < $rows; $done += 500) {
            $sql[] = $this->insert(min(500, $rows - $done), $done);
        }
        foreach (['reading', 'visit', 'bay', 'calendar'] as $table) {
            $sql[] = "ANALYZE s.{$table}";
        }

        return $sql;
    }

    /**
     * @return list<string> that make what is prepared
     */
    public function rollups(string $stale = 'fold'): array
    {
        $sql = ['CREATE OR REPLACE LOOKUP s.calendar_by_day WITH (key = day) AS SELECT day, week, season FROM s.calendar'];
        foreach (self::ROLLUPS as $name => $query) {
            $sql[] = "CREATE OR REPLACE ROLLUP s.{$name} WITH (stale = {$stale}) AS {$query}";
        }

        return $sql;
    }

    public function insert(int $rows, int $from): string
    {
        return 'INSERT INTO s.reading VALUES '.
            implode(
                ', ',
                array_map(function (int $i) use ($from): string {
                    $at = gmdate('Y-m-d H:i:s', 1_767_225_600 + $this->random->getInt(0, 90 * 86_400));
                    $null = fn (int $percent, string $value): string => $this->random->getInt(1, 100) <= $percent ? 'NULL' : $value;

                    return '('.
                        ($from + $i).
                        ', '.
                        $null(3, (string) $this->random->getInt(0, 9)).
                        ', '.
                        $null(3, "'".['warm', 'damp', 'bright'][$this->random->getInt(0, 2)]."'").
                        ", timestamp '{$at}', ".
                        $null(8, (string) $this->random->getInt(10, 30)).
                        ', '.
                        $null(8, sprintf('%d.%02d', $this->random->getInt(0, 900), $this->random->getInt(0, 99))).
                        ', '.
                        $null(20, "'n".$this->random->getInt(0, 40)."'").
                        ')';
                }, range(0, $rows - 1)),
            );
    }

    /** A change of the tables, at random. */
    public function change(int $number): string
    {
        $day = gmdate('Y-m-d', 1_767_225_600 + $this->random->getInt(0, 89) * 86_400);

        return match ($this->random->getInt(0, 6)) {
            0, 1 => $this->insert($this->random->getInt(1, 60), 1_000_000 + $number * 100),
            2 => "UPDATE s.reading SET value = value + 1 WHERE bay = {$this->random->getInt(
                0,
                9,
            )} AND at >= date '{$day}' AND at < date '{$day}' + INTERVAL 3 DAY",
            3 => "DELETE FROM s.reading WHERE at >= date '{$day}' AND at < date '{$day}' + INTERVAL 1 DAY",
            4 => 'MAINTAIN TABLE s.reading WITH (action = compact)',
            5 => "UPDATE s.bay SET house = 'h".$this->random->getInt(0, 3)."' WHERE id = {$this->random->getInt(0, 9)}",
            default => 'REFRESH ROLLUP s.'.array_keys(self::ROLLUPS)[$this->random->getInt(0, 4)],
        };
    }

    public function query(): string
    {
        $joins = '';
        $groups = [
            ...array_slice($this->shuffled(['r.bay', 'r.kind']), 0, $this->random->getInt(0, 2)),
            ...array_slice($this->shuffled(self::MOMENTS), 0, $this->random->getInt(0, 1)),
        ];
        // Mostly what a rollup may know, so that many are used.
        $easy = $this->random->getInt(0, 3) > 0;
        $filters = array_slice(
            $this->shuffled($easy ? [...array_slice(self::FILTERS, 0, 6), ...array_slice(self::FILTERS, 12, 3)] : self::FILTERS),
            0,
            $this->random->getInt(0, 2),
        );
        $measures = array_slice(
            $this->shuffled($easy ? array_slice(self::MEASURES, 0, 8) : self::MEASURES),
            0,
            $this->random->getInt(1, 3),
        );
        if ($this->random->getInt(0, 2) === 0) {
            $joins .= ' JOIN s.bay b ON b.id = r.bay';
            $groups = [...$groups, ...array_slice(['b.house'], 0, $this->random->getInt(0, 1))];
            $filters = [...$filters, ...array_slice(["b.house <> 'h1'"], 0, $this->random->getInt(0, 1))];
        }
        if ($this->random->getInt(0, 2) === 0) {
            $joins .= ($this->random->getInt(0, 3) === 0 ? ' LEFT' : '').' JOIN s.calendar c ON c.day = cast(r.at AS date)';
            $groups = [...$groups, ...array_slice(['c.week'], 0, $this->random->getInt(0, 1))];
            $filters = [
                ...$filters,
                ...array_slice(
                    $this->shuffled(['c.week = 11', 'c.week BETWEEN 8 AND 9', "c.season = 'mild'"]),
                    0,
                    $this->random->getInt(0, 1),
                ),
            ];
        }
        if ($this->random->getInt(0, 4) === 0) {
            // Many to many: each reading of a day goes with each visit of the day.
            $joins .= ' JOIN s.visit v ON v.bay = r.bay AND cast(v.at AS date) = cast(r.at AS date)';
            $groups = [...$groups, ...array_slice(['v.mood'], 0, $this->random->getInt(0, 1))];
            $measures = [
                ...$measures,
                ...array_slice(
                    $this->shuffled(['sum(v.length)', 'avg(v.length)', 'count(v.length)', 'max(v.length)', 'count(DISTINCT v.mood)']),
                    0,
                    $this->random->getInt(0, 2),
                ),
            ];
        }
        $items = [
            ...array_map(static fn (string $group, int $i): string => "{$group} AS g{$i}", $groups, array_keys($groups)),
            ...array_map(static fn (string $measure, int $i): string => "{$measure} AS m{$i}", $measures, array_keys($measures)),
        ];
        $sql =
            'SELECT '.
            implode(', ', $items).
            ' FROM s.reading r'.
            $joins.
            ($filters === [] ? '' : ' WHERE '.implode(' AND ', $filters)).
            ($groups === [] ? '' : ' GROUP BY '.implode(', ', $groups));
        if ($this->random->getInt(0, 4) === 0) {
            $sql .= ' HAVING count(*) > '.$this->random->getInt(1, 40);
        }
        if ($this->random->getInt(0, 6) === 0 && $groups !== []) {
            return "SELECT max(x.m0), count(*) FROM ({$sql}) x";
        }

        return $sql;
    }

    /**
     * @param  list<string>  $list
     * @return list<string>
     */
    private function shuffled(array $list): array
    {
        return $this->random->shuffleArray($list);
    }
}
