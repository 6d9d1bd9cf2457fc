<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

use Fulcrion\Core\Sql\Ast\LayoutClauses;

/**
 * Reads how a table is laid out: clauses in any order, each at most once.
 *
 * @internal
 */
final readonly class LayoutParser
{
    private const CLAUSES = ['PLACED', 'CUT', 'SORTED', 'CHUNKS', 'ENCODED', 'PACKED'];

    private const UNITS = ['DAY' => 'day', 'WEEK' => 'week', 'MONTH' => 'month', 'QUARTER' => 'quarter', 'YEAR' => 'year'];

    private const MOST_ROWS = 1_000_000;

    /**
     * @return LayoutClauses|null null where nothing is said
     *
     * @throws SyntaxError
     */
    public static function read(Cursor $c): ?LayoutClauses
    {
        $at = $c->at();
        [$placed, $cut, $sorted, $chunkRows, $encoded, $packed] = [[null, []], [null, null], [[], ''], null, [], null];
        $said = [];
        while (in_array($word = $c->words[$c->i], self::CLAUSES, true)) {
            if (isset($said[$word])) {
                throw $c->refuse("{$word} is said twice");
            }
            $said[$word] = true;
            $c->i++;
            match ($word) {
                'PLACED' => ($placed = self::placed($c)),
                'CUT' => ($cut = self::cut($c)),
                'SORTED' => ($sorted = self::sorted($c)),
                'CHUNKS' => ($chunkRows = self::chunks($c)),
                'ENCODED' => ($encoded = self::encoded($c)),
                'PACKED' => ($packed = self::packed($c)),
            };
        }

        return $said === []
            ? null
            : new LayoutClauses($at, $placed[0], $placed[1], $cut[0], $cut[1], $sorted[0], $sorted[1], $chunkRows, $encoded, $packed);
    }

    /**
     * @return array{LayoutClauses::BY|LayoutClauses::EVENLY|LayoutClauses::EVERYWHERE, list<string>}
     *
     * @throws SyntaxError
     */
    private static function placed(Cursor $c): array
    {
        return match (true) {
            $c->take('BY') => [LayoutClauses::BY, $c->namesInBrackets('a column')],
            $c->take('EVENLY') => [LayoutClauses::EVENLY, []],
            $c->take('EVERYWHERE') => [LayoutClauses::EVERYWHERE, []],
            default => throw $c->expected('BY (columns), EVENLY or EVERYWHERE', 'behind PLACED'),
        };
    }

    /**
     * @return array{string, string|int|null} column and span
     *
     * @throws SyntaxError
     */
    private static function cut(Cursor $c): array
    {
        if ($c->take('EVERY')) {
            $span = self::number($c, 'a width', PHP_INT_MAX);
        } else {
            $c->expect('BY', 'or EVERY behind CUT');
            $unit = self::UNITS[$c->words[$c->i]] ?? null;
            if ($unit === null && ! $c->is('VALUE')) {
                throw $c->expected('VALUE, '.implode(', ', array_keys(self::UNITS)), 'behind CUT BY');
            }
            $c->i++;
            $span = $unit;
        }
        $c->expect('OF', 'and a column in CUT');

        return [$c->name('a column'), $span];
    }

    /**
     * @return array{list<string>, LayoutClauses::CURVE|LayoutClauses::Z_CURVE|''}
     *
     * @throws SyntaxError
     */
    private static function sorted(Cursor $c): array
    {
        $c->expect('BY', 'behind SORTED');
        $curve = '';
        if ($c->follows('Z', 'CURVE')) {
            $curve = LayoutClauses::Z_CURVE;
            $c->i += 2;
        } elseif ($c->take('CURVE')) {
            $curve = LayoutClauses::CURVE;
        }
        $at = $c->at();
        $columns = $c->namesInBrackets('a column');
        if ($curve !== '' && count($columns) !== 2) {
            throw $c->refuse('a curve runs through two columns', $at);
        }

        return [$columns, $curve];
    }

    /**
     * @throws SyntaxError
     */
    private static function chunks(Cursor $c): int
    {
        $c->expect('OF', 'behind CHUNKS');
        $rows = self::number($c, 'a number of rows', self::MOST_ROWS);
        $c->expect('ROWS', 'behind the number of rows of a chunk');

        return $rows;
    }

    /**
     * @return array<string, string>
     *
     * @throws SyntaxError
     */
    private static function encoded(Cursor $c): array
    {
        $c->expect('(', 'behind ENCODED');
        $encoded = [];
        do {
            $column = $c->name('a column');
            $c->expect('AS', "behind {$column} in ENCODED");
            $encoded[$column] = strtolower($c->partName('an encoding'));
        } while ($c->take(','));
        $c->expect(')', 'behind the encodings');

        return $encoded;
    }

    /**
     * @throws SyntaxError
     */
    private static function packed(Cursor $c): string
    {
        $word = strtolower($c->partName('a compression'));
        if ($c->kinds[$c->i] === 'n') {
            $word .= self::number($c, 'a level', 99);
        }

        return $word;
    }

    /**
     * @throws SyntaxError
     */
    private static function number(Cursor $c, string $what, int $most): int
    {
        $text = $c->texts[$c->i];
        if ($c->kinds[$c->i] !== 'n' || ! ctype_digit($text) || strlen($text) > 18 || (int) $text < 1 || (int) $text > $most) {
            throw $c->expected(
                $most === PHP_INT_MAX ? "{$what}, a whole number above 0" : "{$what} from 1 to ".number_format($most, 0, '', ' '),
            );
        }
        $c->i++;

        return (int) $text;
    }
}
