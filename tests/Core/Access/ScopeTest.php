<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Catalog\Hierarchy;
use Fulcrion\Core\Access\Catalog\TreeRow;
use PHPUnit\Framework\TestCase;

final class ScopeTest extends TestCase
{
    /**
     * @param  array<string, array<string, mixed>>  $scopes
     */
    private static function answer(array $scopes, string $sql, string $who = 'person:ann'): string
    {
        $scopes = array_map(
            static fn (array $scope): array => $scope + [
                'dimension' => 'site',
                'for' => ['role:crew'],
                'level' => 'detail',
                'mode' => 'refuse',
            ],
            $scopes,
        );

        return SampleAccess::answer(
            SampleAccess::policy([
                'hierarchies' => ['tree' => ['table' => 'c.field.pick', 'node' => 'n', 'parent' => 'p', 'name' => 'name']],
                'dimensions' => ['site' => ['columns' => ['c.field.pick.house' => 'house'], 'hierarchy' => 'tree']],
                'scopes' => $scopes,
            ]),
            $sql,
            $who,
        );
    }

    public function test_what_a_query_asks_for_is_held_against_what_is_allowed(): void
    {
        $north = ['a' => ['branches' => ['north']]];
        self::assertStringContainsString(
            'FROM field.pick WHERE house IN (1, 5)',
            self::answer($north, 'SELECT bay FROM field.pick WHERE house = 5'),
        );
        self::assertSame(
            'ann may not see 2 of site (c.field.pick.house); allowed: 1, 5.',
            self::answer($north, 'SELECT bay FROM field.pick WHERE house IN (1, 2)'),
        );
        self::assertSame(
            'This asks for all values of site (c.field.pick.house); ann may see 1, 5.',
            self::answer($north, 'SELECT bay, kilos FROM field.pick'),
        );
        self::assertStringContainsString(
            'This asks for all values',
            self::answer($north, 'SELECT bay FROM field.pick WHERE house = 1 OR bay = 2'),
            'a condition that does not hold for all rows restricts nothing',
        );
        self::assertStringContainsString(
            'This asks for all values',
            self::answer($north, 'SELECT p.bay FROM people.crew AS c LEFT JOIN field.pick AS p ON c.id = p.id AND p.kilos > 1'),
        );
        self::assertStringContainsString(
            'depends on values that are not known',
            self::answer($north, 'SELECT bay FROM field.pick WHERE house = ?'),
        );
        self::assertSame(
            'SELECT bay FROM (SELECT bay FROM field.pick WHERE house IN (1, 5)) AS pick',
            self::answer(['a' => ['mode' => 'trim'] + $north['a']], 'SELECT bay FROM field.pick'),
        );
        self::assertStringContainsString(
            'role keeper may see no value',
            self::answer($north, 'SELECT bay FROM field.pick', 'role:keeper'),
            'without any scope nothing is given, not even to an owner',
        );
    }

    public function test_scopes_of_several_roles_add_up_and_ranges_and_patterns_count(): void
    {
        $two = [
            'a' => ['branches' => ['north'], 'mode' => 'trim'],
            'b' => ['values' => ['2'], 'ranges' => ['30..39', '90..'], 'mode' => 'trim'],
        ];
        self::assertStringContainsString(
            'WHERE house IN (1, 2, 5) OR house >= 30 AND house <= 39 OR house >= 90',
            self::answer($two, 'SELECT bay FROM field.pick'),
        );
        $refuse = ['a' => ['ranges' => ['30..39']]];
        self::assertStringContainsString(
            'FROM field.pick WHERE house',
            self::answer($refuse, 'SELECT bay FROM field.pick WHERE house BETWEEN 31 AND 33'),
        );
        self::assertStringContainsString(
            'ann may not see 31..45',
            self::answer($refuse, 'SELECT bay FROM field.pick WHERE house BETWEEN 31 AND 45'),
        );
        self::assertStringContainsString(
            'allowed: no value',
            self::answer(['a' => ['values' => ['1'], 'until' => '2026-11-22']], 'SELECT bay FROM field.pick WHERE house = 1'),
            'an ended scope gives nothing',
        );
    }

    public function test_totals_are_allowed_where_the_query_does_not_break_down_by_the_dimension(): void
    {
        $totals = ['a' => ['branches' => ['north']], 't' => ['everything' => true, 'level' => 'totals']];
        self::assertSame(
            'SELECT sum(kilos) FROM field.pick HAVING count(*) >= 5',
            self::answer($totals, 'SELECT sum(kilos) FROM field.pick'),
        );
        self::assertSame(
            'SELECT bay, sum(kilos) FROM field.pick GROUP BY bay HAVING count(*) >= 5',
            self::answer($totals, 'SELECT bay, sum(kilos) FROM field.pick GROUP BY bay'),
        );
        foreach (
            [
                'SELECT house, sum(kilos) FROM field.pick GROUP BY house',
                'SELECT kilos FROM field.pick',
                'SELECT sum(kilos) FROM field.pick WHERE bay IN (SELECT bay FROM field.pick)',
                'SELECT count(*) FROM field.pick WHERE house > 3',
                'SELECT sum(kilos) FROM field.pick ORDER BY max(house)',
            ] as $sql
        ) {
            self::assertStringContainsString('in totals only', self::answer($totals, $sql), $sql);
        }
        self::assertStringContainsString(
            'This asks for all values of site (c.field.pick.house) in a total',
            self::answer(['a' => ['branches' => ['north']]], 'SELECT sum(kilos) FROM field.pick'),
        );
    }

    public function test_data_that_contradicts_itself_opens_nothing(): void
    {
        $names = static fn (array $rows, string $branch): array => array_map(
            static fn (TreeRow $row): string => $row->name,
            (new Hierarchy(array_values($rows), SampleAccess::DAY))->branch($branch),
        );
        $rows = SampleAccess::tree();
        self::assertSame(['north', 'house 5', 'house 1'], $names($rows, 'north'));
        self::assertSame(['north', 'house 5'], $names([...$rows, SampleAccess::row('11', '2', 'house 1', '1')], 'north'), 'two parents');
        self::assertSame(
            ['north', 'house 5'],
            $names(
                [
                    ...array_filter($rows, static fn (TreeRow $row): bool => $row->node !== '11'),
                    SampleAccess::row('11', '1', 'house 1', '1', '2026-01-01', '2026-06-30'),
                    SampleAccess::row('11', '1', 'house 1', '1', '2026-12-01'),
                ],
                'north',
            ),
            'a gap in its days',
        );
        self::assertContains(
            'house 1',
            $names(
                [
                    ...array_filter($rows, static fn (TreeRow $row): bool => $row->node !== '11'),
                    SampleAccess::row('11', '2', 'house 1', '1', '2026-01-01'),
                    SampleAccess::row('11', '1', 'house 1', '1', '2026-06-01'),
                ],
                'north',
            ),
            'a later row takes the place of an earlier one',
        );
        $circle = new Hierarchy([...$rows, SampleAccess::row('21', '22', 'x'), SampleAccess::row('22', '21', 'y')], SampleAccess::DAY);
        self::assertSame([], $circle->branch('x'));
        self::assertCount(2, $circle->problems);
        self::assertStringContainsString(
            'has two parents on 2026-11-23: 1 and 2',
            (new Hierarchy([...$rows, SampleAccess::row('11', '2', 'house 1', '1')], SampleAccess::DAY))->problems[0],
        );
        self::assertSame(['all', 'north', 'house 5'], (new Hierarchy($rows, SampleAccess::DAY))->above('house', '5'));
    }
}
