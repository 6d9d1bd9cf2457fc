<?php

declare(strict_types=1);

namespace Tests\Practice;

use PHPUnit\Framework\Attributes\DataProvider;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Statements over small tables of any layout, against the plainest way to the same: going through all rows.
 */
final class BruteForceTest extends WarehouseTestCase
{
    private const LAYOUTS = [
        'PLACED EVENLY', 'PLACED BY (g)', 'PLACED BY (id)', 'PLACED EVERYWHERE', 'PLACED BY (g) CUT BY VALUE OF w',
        'PLACED EVENLY SORTED BY (x) CHUNKS OF 8 ROWS', 'PLACED BY (w) SORTED BY (g, x) CHUNKS OF 4 ROWS',
    ];

    /**
     * @return iterable<string, array{int}>
     */
    public static function worlds(): iterable
    {
        for ($seed = 1; $seed <= 14; $seed++) {
            yield "world {$seed}" => [$seed];
        }
    }

    #[DataProvider('worlds')]
    public function test_windows(int $seed): void
    {
        $rows = $this->table('t', $seed);
        foreach (['g', 'w', ''] as $by) {
            foreach (['', 'DESC'] as $direction) {
                foreach (['id', 'x, id', 'x'] as $order) {
                    $terms = implode(', ', array_map(
                        static fn (string $term): string => "{$term} {$direction} NULLS LAST",
                        explode(', ', $order),
                    ));
                    $over = 'OVER ('.($by === '' ? '' : "PARTITION BY {$by} ")."ORDER BY {$terms}";
                    $own = "{$over})";
                    $counted = "{$over} ROWS BETWEEN UNBOUNDED PRECEDING AND CURRENT ROW)";
                    $unique = $order !== 'x';
                    $list = [
                        'id', "rank() {$own}", "dense_rank() {$own}", "count(x) {$own}", "sum(x) {$own}", "min(x) {$own}", "max(w) {$own}",
                    ];
                    if ($unique) {
                        // Of equals it is not said which comes first.
                        array_push($list, "row_number() {$own}", "lag(x) {$own}", "lead(x, 2) {$own}");
                        array_push($list, "sum(x) {$counted}", "count(*) {$counted}");
                    }
                    $expected = [];
                    foreach ($rows as $row) {
                        $peers = array_values(array_filter($rows, static fn (array $one): bool => $by === '' || $one[$by] === $row[$by]));
                        $keys = explode(', ', $order);
                        usort($peers, static fn (array $a, array $b): int => self::order($a, $b, $keys, $direction === 'DESC'));
                        $upTo = array_values(array_filter(
                            $peers,
                            static fn (array $one): bool => self::order($one, $row, $keys, $direction === 'DESC') <= 0,
                        ));
                        $before = array_filter(
                            $peers,
                            static fn (array $one): bool => self::order($one, $row, $keys, $direction === 'DESC') < 0,
                        );
                        $distinct = count(array_unique(array_map(
                            static fn (array $one): string => serialize(array_map(static fn (string $key): mixed => $one[$key], $keys)),
                            $before,
                        )));
                        $xs = self::given(array_column($upTo, 'x'));
                        $ws = self::given(array_column($upTo, 'w'));
                        $values = [
                            $row['id'], count($before) + 1, $distinct + 1, count($xs), $xs === [] ? null : array_sum($xs),
                            $xs === [] ? null : min($xs), $ws === [] ? null : max($ws),
                        ];
                        if ($unique) {
                            $at = array_search($row, $peers, true);
                            self::assertIsInt($at);
                            array_push(
                                $values,
                                $at + 1,
                                $peers[$at - 1]['x'] ?? null,
                                $peers[$at + 2]['x'] ?? null,
                                $xs === [] ? null : array_sum($xs),
                                count($upTo),
                            );
                        }
                        $expected[] = $values;
                    }
                    self::assertSame($expected, $this->rows('SELECT '.implode(', ', $list).' FROM t ORDER BY id'), $own);
                }
            }
        }
    }

    #[DataProvider('worlds')]
    public function test_groups(int $seed): void
    {
        $rows = $this->table('t', $seed);
        foreach ([['g'], ['w'], ['g', 'w'], []] as $keys) {
            $groups = [];
            foreach ($rows as $row) {
                $groups[serialize(array_map(static fn (string $key): mixed => $row[$key], $keys))][] = $row;
            }
            if ($keys === [] && $groups === []) {
                $groups[''] = [];
            }
            $expected = [];
            foreach ($groups as $group) {
                $xs = self::given(array_column($group, 'x'));
                $large = self::given(array_column(array_filter($group, static fn (array $row): bool => $row['id'] > 10), 'x'));
                $own = array_map(static fn (string $key): mixed => $group[0][$key], $keys);
                $distinct = array_unique($xs);
                if (count($group) < 2) {
                    continue;
                }
                $expected[] = [
                    ...$own, count($group), count($xs), $xs === [] ? null : array_sum($xs), $xs === [] ? null : min($xs),
                    $xs === [] ? null : max($xs), count($distinct), $distinct === [] ? null : array_sum($distinct),
                    count($large), $large === [] ? null : array_sum($large),
                    self::given(array_column($group, 'w')) === [] ? null : max(self::given(array_column($group, 'w'))),
                ];
            }
            $sql = 'SELECT '.implode('', array_map(static fn (string $key): string => "{$key}, ", $keys)).
                'count(*), count(x), sum(x), min(x), max(x), count(DISTINCT x), sum(DISTINCT x), count(x) FILTER (WHERE id > 10), '
                .'sum(x) FILTER (WHERE id > 10), max(w) FROM t'.($keys === [] ? '' : ' GROUP BY '.implode(', ', $keys)).
                ' HAVING count(*) >= 2';
            self::assertSame(self::sorted($expected), self::sorted($this->rows($sql)), $sql);
        }
    }

    #[DataProvider('worlds')]
    public function test_joins(int $seed): void
    {
        $one = $this->table('t', $seed);
        $two = $this->table('u', $seed + 100);
        foreach (['a.g = b.g', 'a.g = b.g AND a.x > b.x', 'a.x = b.id', 'a.id < b.id', 'a.w = b.w AND b.x IS NOT NULL'] as $condition) {
            $meets = static fn (array $a, array $b): bool => match ($condition) {
                'a.g = b.g' => $a['g'] !== null && $a['g'] === $b['g'],
                'a.g = b.g AND a.x > b.x' => $a['g'] !== null && $a['g'] === $b['g'] && $a['x'] !== null && $b['x'] !== null &&
                    $a['x'] > $b['x'],
                'a.x = b.id' => $a['x'] === $b['id'],
                'a.id < b.id' => $a['id'] < $b['id'],
                default => $a['w'] !== null && $a['w'] === $b['w'] && $b['x'] !== null,
            };
            $pairs = $left = $right = $semi = $anti = [];
            foreach ($one as $a) {
                $found = array_values(array_filter($two, static fn (array $b): bool => $meets($a, $b)));
                foreach ($found as $b) {
                    $pairs[] = [$a['id'], $b['id']];
                }
                $left[] = $found === [] ? [[$a['id'], null]] : [];
                $found === [] ? $anti[] = [$a['id']] : $semi[] = [$a['id']];
            }
            $left = array_merge(...$left);
            foreach ($two as $b) {
                if (array_filter($one, static fn (array $a): bool => $meets($a, $b)) === []) {
                    $right[] = [null, $b['id']];
                }
            }
            $ways = [
                "SELECT a.id, b.id FROM t AS a JOIN u AS b ON {$condition}" => $pairs,
                "SELECT a.id, b.id FROM t AS a, u AS b WHERE {$condition}" => $pairs,
                "SELECT a.id, b.id FROM t AS a LEFT JOIN u AS b ON {$condition}" => [...$pairs, ...$left],
                "SELECT a.id, b.id FROM t AS a RIGHT JOIN u AS b ON {$condition}" => [...$pairs, ...$right],
                "SELECT a.id, b.id FROM t AS a FULL JOIN u AS b ON {$condition}" => [...$pairs, ...$left, ...$right],
                "SELECT a.id FROM t AS a WHERE EXISTS (SELECT 1 FROM u AS b WHERE {$condition})" => $semi,
                "SELECT a.id FROM t AS a WHERE NOT EXISTS (SELECT 1 FROM u AS b WHERE {$condition})" => $anti,
                "SELECT a.id, (SELECT count(*) FROM u AS b WHERE {$condition}) FROM t AS a" => array_map(
                    static fn (array $a): array => [$a['id'], count(array_filter($two, static fn (array $b): bool => $meets($a, $b)))],
                    $one,
                ),
            ];
            foreach ($ways as $sql => $expected) {
                self::assertSame(self::sorted($expected), self::sorted($this->rows($sql)), $sql);
            }
        }
    }

    #[DataProvider('worlds')]
    public function test_sets_and_orders(int $seed): void
    {
        $one = $this->table('t', $seed);
        $two = $this->table('u', $seed + 100);
        $a = array_map(static fn (array $row): array => [$row['g'], $row['w']], $one);
        $b = array_map(static fn (array $row): array => [$row['g'], $row['w']], $two);
        $counts = static fn (array $rows): array => array_count_values(array_map(serialize(...), $rows));
        [$ca, $cb] = [$counts($a), $counts($b)];
        $all = static fn (callable $times): array => array_merge(...array_map(
            static fn (string $key): array => array_fill(0, max(0, $times($ca[$key] ?? 0, $cb[$key] ?? 0)), unserialize($key)),
            array_keys($ca + $cb),
        ));
        $ways = [
            'UNION ALL' => static fn (int $x, int $y): int => $x + $y,
            'UNION' => static fn (int $x, int $y): int => 1,
            'INTERSECT' => static fn (int $x, int $y): int => min(1, $x, $y),
            'EXCEPT' => static fn (int $x, int $y): int => $y === 0 ? 1 : 0,
        ];
        foreach ($ways as $set => $times) {
            self::assertSame(self::sorted($all($times)), self::sorted($this->rows("SELECT g, w FROM t {$set} SELECT g, w FROM u")), $set);
        }
        self::assertSame(
            self::sorted(array_map(unserialize(...), array_keys($ca))),
            self::sorted($this->rows('SELECT DISTINCT g, w FROM t')),
        );
        foreach (['ASC NULLS FIRST', 'ASC NULLS LAST', 'DESC NULLS FIRST', 'DESC NULLS LAST'] as $how) {
            $expected = $one;
            usort($expected, static function (array $p, array $q) use ($how): int {
                if ($p['x'] === null || $q['x'] === null) {
                    $order = ($p['x'] === null ? 0 : 1) <=> ($q['x'] === null ? 0 : 1);

                    return $order === 0 ? $p['id'] <=> $q['id'] : (str_contains($how, 'FIRST') ? $order : -$order);
                }

                $order = str_starts_with($how, 'ASC') ? $p['x'] <=> $q['x'] : $q['x'] <=> $p['x'];

                return $order === 0 ? $p['id'] <=> $q['id'] : $order;
            });
            $ids = array_map(static fn (array $row): array => [$row['id']], $expected);
            self::assertSame($ids, $this->rows("SELECT id FROM t ORDER BY x {$how}, id"), $how);
            self::assertSame(array_slice($ids, 3, 5), $this->rows("SELECT id FROM t ORDER BY x {$how}, id LIMIT 5 OFFSET 3"), $how);
        }
    }

    /**
     * @return list<array{id: int, g: int|null, x: int|null, w: string|null}> in the order of id
     */
    private function table(string $name, int $seed): array
    {
        $random = new Randomizer(new Mt19937($seed));
        $layout = self::LAYOUTS[$seed % count(self::LAYOUTS)];
        $this->sql("CREATE TABLE {$name} (id bigint NOT NULL, g bigint, x bigint, w text) {$layout}");
        $rows = [];
        for ($id = 1, $count = $random->getInt(1, 30); $id <= $count; $id++) {
            $rows[] = [
                'id' => $id,
                'g' => $random->getInt(0, 6) === 0 ? null : $random->getInt(0, 3),
                'x' => $random->getInt(0, 6) === 0 ? null : $random->getInt(-5, 12),
                'w' => $random->getInt(0, 6) === 0 ? null : ['a', 'B', 'b', ''][$random->getInt(0, 3)],
            ];
        }
        // In several parts, so that there are several chunks.
        foreach (array_chunk($random->shuffleArray($rows), 7) as $part) {
            $this->sql("INSERT INTO {$name} VALUES ".implode(', ', array_map(
                static fn (array $row): string => '('.implode(', ', array_map(self::literal(...), array_values($row))).')',
                $part,
            )));
        }

        return $rows;
    }

    private static function literal(int|string|null $value): string
    {
        return $value === null ? 'NULL' : (is_string($value) ? "'{$value}'" : (string) $value);
    }

    /**
     * NULL comes last both ways.
     *
     * @param  array{id: int, g: int|null, x: int|null, w: string|null}  $a
     * @param  array{id: int, g: int|null, x: int|null, w: string|null}  $b
     * @param  list<string>  $keys id or x
     */
    private static function order(array $a, array $b, array $keys, bool $descending): int
    {
        foreach ($keys as $key) {
            [$p, $q] = $key === 'id' ? [$a['id'], $b['id']] : [$a['x'], $b['x']];
            if ($p !== $q) {
                return $p === null ? 1 : ($q === null ? -1 : ($descending ? $q <=> $p : $p <=> $q));
            }
        }

        return 0;
    }

    /**
     * @template T
     *
     * @param  array<array-key, T|null>  $values
     * @return list<T>
     */
    private static function given(array $values): array
    {
        return array_values(array_filter($values, static fn (mixed $value): bool => $value !== null));
    }

    /**
     * @param  array<array-key, mixed>  $rows
     * @return list<string> in an order of their own
     */
    private static function sorted(array $rows): array
    {
        $texts = array_map(static fn (mixed $row): string => (string) json_encode($row), array_values($rows));
        sort($texts);

        return $texts;
    }
}
