<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Catalog\AllowedValues;
use Fulcrion\Core\Access\Catalog\Hierarchy;
use Fulcrion\Core\Access\Catalog\TreeRow;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Printer;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Which values scopes give, in words and as a condition on rows; and the tree branches are taken from.
 */
final class AllowedValuesTest extends TestCase
{
    public function test_the_rows_that_are_left_are_those_with_an_allowed_value(): void
    {
        $random = new Randomizer(new Mt19937(3));
        $kept = 0;
        foreach ([TypeKind::Bigint, TypeKind::Double, TypeKind::Text] as $kind) {
            $type = ColumnType::of($kind);
            for ($i = 0; $i < 150; $i++) {
                $some = static fn (): string => $kind === TypeKind::Text
                    ? chr(97 + $random->getInt(0, 5)).chr(97 + $random->getInt(0, 5))
                    : (string) $random->getInt(-20, 20);
                $fields = [
                    'values' => array_map($some, range(0, $random->getInt(0, 2))),
                    'ranges' => [$some().'..'.$some(), ['..', ''][$random->getInt(0, 1)] === '..' ? '..'.$some() : $some().'..'.$some()],
                    'patterns' => $kind === TypeKind::Text ? [$some()[0].'%', '_'.$some()[1]] : [],
                ];
                $allowed = AllowedValues::of([self::scope(array_filter($fields))], null, null);
                $predicate = $allowed->predicate('v', $type);
                for ($j = 0; $j < 15; $j++) {
                    $value = $some();
                    $kept += $allowed->has($value, $type) ? 1 : 0;
                    self::assertSame(
                        self::holds($predicate, $value, $kind !== TypeKind::Text),
                        $allowed->has($value, $type),
                        "{$value} of ".$allowed->show().': '.(new Printer())->expression($predicate),
                    );
                }
            }
        }
        self::assertGreaterThan(1000, $kept);
        self::assertLessThan(6000, $kept);
    }

    public function test_a_range_of_whole_numbers_is_allowed_where_each_of_them_is(): void
    {
        $random = new Randomizer(new Mt19937(4));
        $type = ColumnType::of(TypeKind::Bigint);
        $yes = 0;
        for ($i = 0; $i < 400; $i++) {
            $a = $random->getInt(0, 12);
            $values = array_map(static fn (): string => (string) $random->getInt(0, 12), range(1, 6));
            $allowed = AllowedValues::of([self::scope(['values' => $values, 'ranges' => [$a.'..'.($a + 4)]])], null, null);
            $low = $random->getInt(0, 12);
            $high = $low + $random->getInt(0, 5);
            $each = true;
            for ($value = $low; $value <= $high; $value++) {
                $each = $each && $allowed->has((string) $value, $type);
            }
            self::assertSame($each, $allowed->hasRange((string) $low, (string) $high, $type), "{$low} to {$high} of ".$allowed->show());
            $yes += $each ? 1 : 0;
        }
        self::assertGreaterThan(80, $yes);
        self::assertLessThan(320, $yes);
        $wide = AllowedValues::of([self::scope(['values' => array_map(strval(...), range(0, 1200))])], null, null);
        self::assertTrue($wide->hasRange('0', '999', $type));
        self::assertFalse($wide->hasRange('0', '1000', $type), 'a thousand and more are not gone through one by one');
        self::assertFalse($wide->hasRange('a', 'b', $type));
        $fractions = ColumnType::of(TypeKind::Double);
        self::assertFalse(
            AllowedValues::of([self::scope(['values' => ['1', '2']])], null, null)->hasRange('1', '2', $fractions),
            'between two numbers there are others',
        );
        self::assertTrue(AllowedValues::of([self::scope(['ranges' => ['1..2']])], null, null)->hasRange('1.25', '2.0', $fractions));
        self::assertFalse(AllowedValues::of([self::scope(['ranges' => ['1..2']])], null, null)->hasRange('1', '2.01', $fractions));
        self::assertTrue(AllowedValues::of([self::scope(['ranges' => ['..9']])], null, null)->hasRange('-100', '9', $fractions));
        self::assertTrue(AllowedValues::of([self::scope(['ranges' => ['9..']])], null, null)->hasRange('9', '1e300', $fractions));
    }

    /**
     * @return iterable<string, array{array<string, mixed>, string, string, string}> scope, type, predicate, words
     */
    public static function scopes(): iterable
    {
        yield 'none' => [[], 'bigint', '1 = 0', 'no value'];
        yield 'one value' => [['values' => ['7']], 'bigint', 'v = 7', '7'];
        yield 'values in the order of numbers' => [['values' => ['10', '9', '-1']], 'bigint', 'v IN (-1, 9, 10)', '-1, 9, 10'];
        yield 'a text among numbers' => [['values' => ['x', '3']], 'bigint', 'v = 3', '3, x'];
        yield 'nothing but texts among numbers' => [['values' => ['x']], 'double', '1 = 0', 'x'];
        yield 'texts' => [['values' => ["it's", 'a']], 'text', "v IN ('a', 'it''s')", "a, it's"];
        yield 'days' => [['values' => ['2026-11-23']], 'date', "v = DATE '2026-11-23'", '2026-11-23'];
        yield 'days with a time' => [['values' => ['2026-11-23 10:00']], 'date', "v = DATE '2026-11-23'", '2026-11-23 10:00'];
        yield 'moments' => [
            ['values' => ['2026-11-23 10:00:00']],
            'timestamp',
            "v = TIMESTAMP '2026-11-23 10:00:00'",
            '2026-11-23 10:00:00',
        ];
        yield 'no day' => [['values' => ['soonish']], 'date', '1 = 0', 'soonish'];
        yield 'truths' => [['values' => ['yes', 'no']], 'boolean', 'v IN (FALSE, TRUE)', 'no, yes'];
        yield 'a range' => [['ranges' => ['1..9']], 'bigint', 'v >= 1 AND v <= 9', '1 to 9'];
        yield 'open below' => [['ranges' => ['..9']], 'bigint', 'v <= 9', 'up to 9'];
        yield 'open above' => [['ranges' => ['3..']], 'bigint', 'v >= 3', '3 to any'];
        yield 'a range that is none' => [['ranges' => ['a..9']], 'bigint', '1 = 0', 'a to 9'];
        yield 'a range of days' => [
            ['ranges' => ['2026-01-01..2026-12-31']],
            'date',
            "v >= DATE '2026-01-01' AND v <= DATE '2026-12-31'",
            '2026-01-01 to 2026-12-31',
        ];
        yield 'a pattern' => [['patterns' => ['a%']], 'text', "v LIKE 'a%'", 'like a%'];
        yield 'a pattern of numbers' => [['patterns' => ['1%']], 'bigint', '1 = 0', 'like 1%'];
        yield 'all together' => [
            ['values' => ['b'], 'ranges' => ['m..p'], 'patterns' => ['x_']],
            'text',
            "v = 'b' OR v >= 'm' AND v <= 'p' OR v LIKE 'x_'",
            'b; m to p; like x_',
        ];
        yield 'eight values' => [
            ['values' => ['1', '2', '3', '4', '5', '6', '7', '8']],
            'bigint',
            'v IN (1, 2, 3, 4, 5, 6, 7, 8)',
            '1, 2, 3, 4, 5, 6, 7, 8',
        ];
        yield 'nine values' => [
            ['values' => ['1', '2', '3', '4', '5', '6', '7', '8', '9']],
            'bigint',
            'v IN (1, 2, 3, 4, 5, 6, 7, 8, 9)',
            '1, 2, 3, 4, 5, 6, 7, 8 and 1 more',
        ];
    }

    /**
     * @param  array<string, mixed>  $fields
     */
    #[DataProvider('scopes')]
    public function test_what_is_allowed_is_a_condition_and_a_sentence(array $fields, string $type, string $sql, string $words): void
    {
        $allowed = AllowedValues::of([self::scope($fields)], null, null);
        self::assertSame($sql, (new Printer())->expression($allowed->predicate('v', ColumnType::of(TypeKind::from($type)))));
        self::assertSame($words, $allowed->show());
        self::assertFalse($allowed->everything);
    }

    public function test_everything_is_everything(): void
    {
        $type = ColumnType::of(TypeKind::Text);
        $allowed = AllowedValues::of([self::scope(['values' => ['a']]), self::scope(['everything' => true])], null, null);
        self::assertTrue($allowed->everything);
        self::assertTrue($allowed->has('anything', $type));
        self::assertTrue($allowed->hasRange('a', 'z', $type));
        self::assertSame('all values', $allowed->show());
    }

    public function test_scopes_add_up_and_are_compared_by_what_they_give(): void
    {
        $a = self::scope(['values' => ['1', '2']], 'a');
        $b = self::scope(['values' => ['3'], 'ranges' => ['7..9']], 'b');
        $both = AllowedValues::of([$a, $b], null, null);
        self::assertSame(['1', '2', '3'], array_map(strval(...), array_keys($both->values)));
        self::assertSame([['7', '9']], $both->ranges);
        self::assertSame(['a', 'b'], $both->scopes);
        $same = static fn (array $fields): bool => $both->same(AllowedValues::of([self::scope($fields)], null, null));
        self::assertTrue($same(['values' => ['3', '2', '1'], 'ranges' => ['7..9']]));
        self::assertFalse($same(['values' => ['3', '2'], 'ranges' => ['7..9']]));
        self::assertFalse($same(['values' => ['3', '2', '1', '4'], 'ranges' => ['7..9']]));
        self::assertFalse($same(['values' => ['3', '2', '1'], 'ranges' => ['7..8']]));
        self::assertFalse($same(['values' => ['3', '2', '1'], 'ranges' => ['7..9'], 'patterns' => ['x']]));
        self::assertFalse($same(['values' => ['3', '2', '1'], 'ranges' => ['7..9'], 'everything' => true]));
    }

    public function test_branches_are_the_values_of_their_nodes(): void
    {
        $tree = new Hierarchy(SampleAccess::tree(), SampleAccess::DAY);
        $of = static fn (?string $column, string ...$branches): array => array_map(
            strval(...),
            array_keys(AllowedValues::of([self::scope(['branches' => $branches])], $tree, $column)->values),
        );
        self::assertSame(['5', '1'], $of('house', 'north'), 'nodes without a value give none');
        self::assertSame(['2'], $of('house', '#2'), 'a branch may be named by its number');
        self::assertEqualsCanonicalizing(['1', '2', '5'], $of('house', 'all'));
        self::assertEqualsCanonicalizing(['1', '2', '5'], $of('house', 'south', 'north'));
        self::assertSame(['south', 'house 2'], $of(null, 'south'), 'without a column the names of the nodes are the values');
        self::assertSame([], $of('house', 'west'));
        self::assertSame([], $of('gone', 'north'));
        self::assertSame([], AllowedValues::of([self::scope(['branches' => ['north']])], null, 'house')->values, 'no tree, no values');
    }

    public function test_a_branch_is_a_node_and_whoever_leads_up_to_it(): void
    {
        $random = new Randomizer(new Mt19937(9));
        for ($i = 0; $i < 60; $i++) {
            $rows = [];
            $parents = [];
            for ($node = 1; $node <= 25; $node++) {
                // Parents may come later in the list, and a few lead back to their own children.
                $parent = $random->getInt(0, 25);
                $parents[(string) $node] = $parent === 0 || $parent === $node ? null : (string) $parent;
                $rows[] = SampleAccess::row((string) $node, $parents[(string) $node], "n{$node}", "h{$node}");
            }
            $tree = new Hierarchy($rows, SampleAccess::DAY);
            $line = static function (string $node) use ($parents): ?array {
                $line = [];
                for ($at = $node; $at !== null; $at = $parents[$at]) {
                    if (in_array($at, $line, true)) {
                        return null;
                    }
                    $line[] = $at;
                }

                return $line;
            };
            foreach (array_keys($parents) as $root) {
                $expected = [];
                foreach (array_keys($parents) as $node) {
                    if (in_array((string) $root, $line((string) $node) ?? [], true)) {
                        $expected[] = "n{$node}";
                    }
                }
                $found = array_map(static fn (TreeRow $row): string => $row->name, $tree->branch("n{$root}"));
                self::assertEqualsCanonicalizing($expected, $found, "tree {$i}, node {$root}");
                $above = $line((string) $root);
                self::assertSame(
                    $above === null ? [] : array_map(static fn (string $node): string => "n{$node}", array_reverse($above)),
                    $tree->above('house', "h{$root}"),
                );
            }
            $circular = array_filter(array_keys($parents), static fn (int|string $node): bool => $line((string) $node) === null);
            self::assertCount(count($circular), $tree->problems, 'each that leads into a circle is told');
            self::assertCount(25 - count($circular), $tree->outline(), 'and stands in no outline');
        }
    }

    public function test_an_outline_is_in_the_order_of_the_tree(): void
    {
        self::assertSame(
            [['all', 0, '0'], ['north', 1, '1'], ['house 1', 2, '11'], ['house 5', 2, '15'], ['south', 1, '2'], ['house 2', 2, '12']],
            (new Hierarchy(SampleAccess::tree(), SampleAccess::DAY))->outline(),
        );
    }

    /**
     * @return iterable<string, array{list<array{string|null, string|null}>, bool}> first and last days of rows of one node, whether it
     *     stands
     */
    public static function days(): iterable
    {
        yield 'for ever' => [[[null, null]], true];
        yield 'from today' => [[['2026-11-23', null]], true];
        yield 'from tomorrow' => [[['2026-11-24', null]], false];
        yield 'until today' => [[[null, '2026-11-23']], true];
        yield 'until yesterday' => [[[null, '2026-11-22']], false];
        yield 'a row took its place' => [[['2026-01-01', null], ['2026-06-01', null]], true];
        yield 'one ended, one begins later' => [[['2026-01-01', '2026-06-30'], ['2026-12-01', null]], false];
        yield 'one ended, one began the day after' => [[['2026-01-01', '2026-06-30'], ['2026-07-01', null]], true];
        yield 'the later one has ended as well' => [[['2026-01-01', '2026-06-30'], ['2026-07-01', '2026-11-22']], false];
        yield 'the later one ends today' => [[['2026-01-01', '2026-06-30'], ['2026-07-01', '2026-11-23']], true];
    }

    /**
     * @param  list<array{string|null, string|null}>  $days
     */
    #[DataProvider('days')]
    public function test_a_node_stands_where_a_row_covers_the_day(array $days, bool $stands): void
    {
        $rows = array_map(
            static fn (array $day): TreeRow => SampleAccess::row('7', null, 'seven', '7', $day[0], $day[1]),
            $days,
        );
        $tree = new Hierarchy($rows, SampleAccess::DAY);
        self::assertSame($stands ? 1 : 0, count($tree->branch('seven')));
        self::assertCount($stands ? 0 : 1, $tree->problems);
        if (! $stands) {
            self::assertStringStartsWith('seven (node 7) stands nowhere on 2026-11-23: its ', $tree->problems[0]);
        }
    }

    public function test_what_contradicts_itself_is_told(): void
    {
        $problems = static fn (TreeRow ...$rows): array => (new Hierarchy(array_values($rows), SampleAccess::DAY))->problems;
        self::assertSame(
            [
                'a (node 1) stands nowhere on 2026-11-23: its first row begins on 2026-12-01. It belongs to no branch until a row covers '
                    .'the day.',
            ],
            $problems(SampleAccess::row('1', null, 'a', null, '2026-12-24'), SampleAccess::row('1', null, 'a', null, '2026-12-01')),
        );
        self::assertSame(
            [
                'a (node 1) stands nowhere on 2026-11-23: its last row ended on 2026-10-02. It belongs to no branch until a row covers '
                    .'the day.',
            ],
            $problems(
                SampleAccess::row('1', null, 'a', null, '2026-01-01', '2026-10-02'),
                SampleAccess::row('1', null, 'a', null, '2025-01-01', '2026-01-02'),
            ),
        );
        self::assertSame(
            ['b (node 2) hangs below node 9, which is not there.'],
            $problems(SampleAccess::row('2', '9', 'b')),
        );
        self::assertSame([], (new Hierarchy([SampleAccess::row('1', null, 'x'), SampleAccess::row('2', null, 'x')], SampleAccess::DAY))
            ->branch('x'), 'a name of two nodes is none');
        self::assertSame([], (new Hierarchy([SampleAccess::row('1', null, 'x', '5'), SampleAccess::row('2', null, 'y', '5')],
            SampleAccess::DAY))->above('house', '5'), 'nor is a value of two nodes');
    }

    /** Works a condition out row by row, on its own. */
    private static function holds(Ast\Expression $e, string $value, bool $number): bool
    {
        if ($e instanceof Ast\InList) {
            $own = $number ? (float) $value : $value;

            return array_filter($e->items, static fn (Ast\Expression $one): bool => self::literal($one) === $own) !== [];
        }
        if ($e instanceof Ast\Like) {
            self::assertInstanceOf(Ast\TextLiteral::class, $e->pattern);
            [$first, $second] = [$e->pattern->value[0], $e->pattern->value[1]];

            return $second === '%' ? $value[0] === $first : strlen($value) === 2 && $value[1] === $second;
        }
        self::assertInstanceOf(Ast\Binary::class, $e);
        if ($e->operator === 'AND' || $e->operator === 'OR') {
            [$left, $right] = [self::holds($e->left, $value, $number), self::holds($e->right, $value, $number)];

            return $e->operator === 'AND' ? $left && $right : $left || $right;
        }
        $order = ($number ? (float) $value : $value) <=> self::literal($e->right);

        return match ($e->operator) {
            '=' => $order === 0,
            '>=' => $order >= 0,
            '<=' => $order <= 0,
            default => self::fail("{$e->operator} is not known here"),
        };
    }

    private static function literal(Ast\Expression $e): float|string
    {
        return $e instanceof Ast\NumberLiteral ? (float) $e->text : ($e instanceof Ast\TextLiteral ? $e->value : self::fail('no literal'));
    }

    /**
     * @param  array<string, mixed>  $fields
     */
    private static function scope(array $fields, string $name = 's'): Item
    {
        $item = Item::of(Kind::Scopes, $name, $fields + ['dimension' => 'd', 'for' => ['everyone'], 'level' => 'detail', 'mode' => 'trim']);
        self::assertInstanceOf(Item::class, $item, is_array($item) ? (string) $item[0] : '');

        return $item;
    }
}
