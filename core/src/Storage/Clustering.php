<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * What rows are sorted by within what is written together: columns one after the other, or two columns along a curve
 * that keeps rows near in both near each other.
 */
final readonly class Clustering
{
    public const Z_ORDER = 'zorder';

    public const HILBERT = 'hilbert';

    /**
     * @param  list<string>  $columns
     */
    public function __construct(public array $columns, public string $curve = '')
    {
    }

    /** Behind "sorted by". */
    public function describe(): string
    {
        $columns = implode(', ', $this->columns);

        return match (true) {
            $this->columns === [] => 'none',
            $this->curve === self::HILBERT => "curve ({$columns})",
            $this->curve === self::Z_ORDER => "z curve ({$columns})",
            default => $columns,
        };
    }

    /**
     * The order rows are to be written in. Rows that agree keep theirs.
     *
     * @param  list<list<int|float|string|bool|null>>  $keys the values of each column
     * @return list<int> numbers of rows
     */
    public function order(array $keys): array
    {
        $count = count($keys[0] ?? []);
        $order = $count === 0 ? [] : range(0, $count - 1);
        if (count($keys) === 1) {
            return array_keys(self::sorted($keys[0]));
        }
        if ($this->curve === '') {
            $ranks = array_map(self::ranks(...), array_slice($keys, 0, -1));
            // The last column may hold as many values as rows, so it is compared as it is.
            $last = self::ranks($keys[count($keys) - 1]);
            usort($order, static function (int $a, int $b) use ($ranks, $last): int {
                foreach ($ranks as $rank) {
                    if ($rank[$a] !== $rank[$b]) {
                        return $rank[$a] <=> $rank[$b];
                    }
                }

                return [$last[$a], $a] <=> [$last[$b], $b];
            });

            return $order;
        }
        $places = SpaceFillingCurve::places(self::ranks($keys[0]), self::ranks($keys[1]), $this->curve === self::HILBERT);
        asort($places, SORT_NUMERIC);

        return array_keys($places);
    }

    /**
     * The rank of each value among the distinct ones; NULL comes first.
     *
     * @param  list<int|float|string|bool|null>  $values
     * @return list<int>
     */
    private static function ranks(array $values): array
    {
        $sorted = self::sorted($values);
        $ranks = array_fill(0, count($values), 0);
        $rank = -1;
        $before = null;
        foreach ($sorted as $row => $value) {
            if ($rank === -1 || $value !== $before) {
                $rank++;
                $before = $value;
            }
            $ranks[$row] = $rank;
        }

        return array_values($ranks);
    }

    /**
     * NULL first: compared with numbers it would be taken for 0, and with texts for an empty one.
     *
     * @param  list<int|float|string|bool|null>  $values
     * @return array<int, int|float|string|bool|null> by their place before
     */
    private static function sorted(array $values): array
    {
        $nulls = array_filter($values, static fn (int|float|string|bool|null $value): bool => $value === null);
        $others = array_diff_key($values, $nulls);
        asort($others, self::flag($values));

        return $nulls + $others;
    }

    /**
     * @param  list<int|float|string|bool|null>  $values
     */
    private static function flag(array $values): int
    {
        foreach ($values as $value) {
            if ($value !== null) {
                return is_string($value) ? SORT_STRING : SORT_NUMERIC;
            }
        }

        return SORT_NUMERIC;
    }
}
