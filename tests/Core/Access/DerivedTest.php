<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Catalog\AccessCatalog;
use Fulcrion\Core\Access\Catalog\ColumnOrigin;
use Fulcrion\Core\Access\Catalog\Hierarchy;
use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\Sight;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * Tables made of others: as closed as what flows into them, until a steward lets them go.
 */
final class DerivedTest extends TestCase
{
    private const CLOSED = [
        'rules' => [
            'phones' => [
                'scope' => 'estate',
                'for' => ['everyone'],
                'when' => "labelled_below('personal')",
                'effect' => 'mask',
                'mask' => 'last2',
            ],
            'pay' => ['scope' => 'estate', 'for' => ['everyone'], 'when' => "labelled('pay')", 'effect' => 'hide'],
        ],
    ];

    private const DENIED = [
        'grants' => ['not' => ['effect' => 'deny', 'privileges' => ['select'], 'on' => 'c.people.crew', 'to' => ['role:crew']]],
    ];

    private const SITES = [
        'dimensions' => ['site' => ['columns' => ['c.field.pick.house' => '']]],
        'scopes' => [
            'some' => ['dimension' => 'site', 'for' => ['role:crew'], 'values' => ['1', '5'], 'level' => 'detail', 'mode' => 'trim'],
        ],
    ];

    /**
     * @param  array<string, array<string, array<string, mixed>>>  $sections
     */
    private static function policy(array $sections, TableEntry ...$more): Policy
    {
        return new Policy(
            SampleAccess::document($sections),
            new AccessCatalog([...array_values(SampleAccess::catalog()->tables), ...array_values($more)]),
            ['tree' => new Hierarchy(SampleAccess::tree(), SampleAccess::DAY)],
            SampleAccess::DAY,
        );
    }

    /**
     * @param  array<string, TypeKind>  $columns
     */
    private static function table(string $path, array $columns, ColumnOrigin ...$origins): TableEntry
    {
        return new TableEntry($path, array_map(ColumnType::of(...), $columns), null, array_values($origins));
    }

    /** A copy of crew with columns worked out from others. */
    private static function book(): TableEntry
    {
        $flows = [
            'id' => ['id' => true],
            'tel' => ['phone' => true],
            'pay' => ['wage' => true],
            'words' => ['phone' => false],
            'both' => ['name' => false, 'wage' => false],
        ];

        return self::table(
            'c.field.book',
            [
                'id' => TypeKind::Bigint,
                'tel' => TypeKind::Text,
                'pay' => TypeKind::Bigint,
                'words' => TypeKind::Text,
                'both' => TypeKind::Text,
            ],
            new ColumnOrigin('c.people.crew', $flows, [], ['id' => 'id', 'tel' => 'phone', 'pay' => 'wage']),
        );
    }

    private static function renamed(): TableEntry
    {
        $crew = SampleAccess::catalog()->tables['c.people.crew'];
        $same = array_combine(array_keys($crew->columns), array_keys($crew->columns));

        return new TableEntry('c.people.folk', $crew->columns, null, [
            new ColumnOrigin('c.people.crew', array_map(static fn (string $column): array => [$column => true], $same), [], $same, true),
        ]);
    }

    public function test_labels_and_rules_come_along_with_the_columns(): void
    {
        $policy = self::policy(self::CLOSED, self::book());
        $shown = "CASE WHEN char_length(tel) > 2 THEN concat('***', right(tel, 2)) ELSE '***' END AS tel";
        self::assertSame(
            "SELECT * FROM (SELECT id, {$shown}, '***' AS words FROM field.book) AS book",
            SampleAccess::answer($policy, 'SELECT * FROM field.book'),
            'a copy is masked as its source; what is computed from a masked value shows nothing',
        );
        self::assertStringContainsString('pay is hidden for ann: ', SampleAccess::answer($policy, 'SELECT pay FROM field.book'));
        self::assertStringContainsString(
            'both is hidden for ann: ',
            SampleAccess::answer($policy, 'SELECT id FROM field.book WHERE both IS NULL'),
            'of two sources the stricter holds',
        );
        self::assertSame(
            'SELECT * FROM field.book',
            SampleAccess::answer(self::policy([], self::book()), 'SELECT * FROM field.book'),
            'nothing closed, nothing inherited',
        );
        self::assertSame(
            'SELECT * FROM field.book',
            SampleAccess::answer(
                self::policy(
                    ['rules' => array_map(static fn (array $rule): array => $rule + ['except' => ['role:keeper']], self::CLOSED['rules'])],
                    self::book(),
                ),
                'SELECT * FROM field.book',
                'role:keeper',
            ),
            'whose source is open sees what came of it',
        );
    }

    public function test_grants_on_the_source_are_needed_and_denials_hold(): void
    {
        self::assertSame(
            'c.field.book is closed to ann: its rows come from c.people.crew, and grant not denies it at c.people.crew.',
            SampleAccess::answer(self::policy(self::DENIED, self::book()), 'SELECT id FROM field.book'),
        );
        $column = self::policy(['grants' => ['not' => ['on' => 'c.people.crew.phone'] + self::DENIED['grants']['not']]], self::book());
        self::assertSame('SELECT id FROM field.book', SampleAccess::answer($column, 'SELECT id FROM field.book'));
        foreach (['tel', 'words'] as $name) {
            self::assertStringContainsString(
                "{$name} is denied for ann: its rows come from c.people.crew, and grant not denies it at c.people.crew.phone",
                SampleAccess::answer($column, "SELECT {$name} FROM field.book"),
            );
        }
        $only = ['grants' => ['all' => ['effect' => 'allow', 'privileges' => ['use', 'select'], 'on' => 'c.field', 'to' => ['role:crew']]]];
        self::assertStringContainsString(
            'closed to ann: its rows come from c.people.crew, and there is no use of c.people',
            SampleAccess::answer(self::policy($only, self::book()), 'SELECT id FROM field.book'),
        );
        $given = [
            'grants' => [
                'given' => ['effect' => 'allow', 'privileges' => ['select'], 'on' => 'c.field.book', 'to' => ['role:crew']],
                'in' => ['effect' => 'allow', 'privileges' => ['use'], 'on' => 'c.field', 'to' => ['role:crew']],
            ] + $only['grants'],
        ];
        self::assertSame(
            'SELECT tel FROM field.book',
            SampleAccess::answer(self::policy($given, self::book()), 'SELECT tel FROM field.book'),
            'a grant on the very table opens it',
        );
        self::assertStringContainsString(
            "'***'",
            SampleAccess::answer(self::policy($given + self::CLOSED, self::book()), 'SELECT tel FROM field.book'),
            'and lifts no rule',
        );
    }

    public function test_filters_hold_where_their_columns_came_along_and_close_where_not(): void
    {
        $filter = static fn (string $condition): array => [
            'rules' => ['some' => ['scope' => 'c.people.crew', 'for' => ['everyone'], 'effect' => 'filter', 'filter' => $condition]],
        ];
        self::assertSame(
            "SELECT words FROM (SELECT words FROM field.book WHERE id < 100 AND tel = 'x') AS book",
            SampleAccess::answer(self::policy($filter("id < 100 AND phone = 'x'"), self::book()), 'SELECT words FROM field.book'),
            'under the names the columns have here',
        );
        self::assertStringContainsString(
            'rule some filters them by name, which did not come along',
            SampleAccess::answer(self::policy($filter("name = person('region')"), self::book()), 'SELECT id FROM field.book'),
        );
        $changed = self::table('c.field.book', ['id' => TypeKind::Bigint], new ColumnOrigin('c.people.crew', ['id' => ['id' => true]]));
        self::assertStringContainsString(
            'filters them by id, which did not come along',
            SampleAccess::answer(self::policy($filter('id < 100'), $changed), 'SELECT id FROM field.book'),
            'a copy that is not of the row the rest came from says nothing',
        );
        self::assertStringContainsString(
            'WHERE id < 100',
            SampleAccess::answer(self::policy($filter('id < 100'), self::renamed()), 'SELECT name FROM people.folk'),
        );
    }

    public function test_what_decided_on_the_rows_counts_as_seen(): void
    {
        $rich = self::table(
            'c.field.rich',
            ['id' => TypeKind::Bigint],
            new ColumnOrigin('c.people.crew', ['id' => ['id' => true]], ['wage'], ['id' => 'id']),
        );
        foreach (['SELECT id FROM field.rich', 'SELECT count(*) FROM field.rich'] as $sql) {
            self::assertSame(
                'c.field.rich is closed to ann: its rows come from c.people.crew, and wage, which is hidden, decided which of them are '
                    .'here.',
                SampleAccess::answer(self::policy(self::CLOSED, $rich), $sql),
            );
        }
        self::assertSame('SELECT id FROM field.rich', SampleAccess::answer(self::policy([], $rich), 'SELECT id FROM field.rich'));
    }

    public function test_scopes_follow_the_column_that_tells_the_row_and_close_where_none_does(): void
    {
        $flows = ['h' => ['house' => true], 'kilos' => ['kilos' => false]];
        $columns = ['h' => TypeKind::Bigint, 'kilos' => TypeKind::Bigint];
        $daily = self::table('c.field.daily', $columns, new ColumnOrigin('c.field.pick', $flows, [], ['h' => 'house']));
        $mixed = self::table('c.field.mixed', $columns, new ColumnOrigin('c.field.pick', $flows));
        $sums = self::table(
            'c.field.sums',
            ['kilos' => TypeKind::Bigint],
            new ColumnOrigin('c.field.pick', ['kilos' => ['kilos' => false]]),
        );
        $policy = self::policy(self::SITES, $daily, $mixed, $sums);
        self::assertSame(
            'SELECT kilos FROM (SELECT kilos FROM field.daily WHERE h IN (1, 5)) AS daily',
            SampleAccess::answer($policy, 'SELECT kilos FROM field.daily'),
        );
        foreach (['mixed', 'sums'] as $name) {
            self::assertSame(
                "c.field.{$name} holds rows of site and no column that tells of which value; ann may see 1, 5.",
                SampleAccess::answer($policy, "SELECT kilos FROM field.{$name}"),
            );
        }
        $all = self::policy(
            ['scopes' => ['some' => ['everything' => true, 'values' => []] + self::SITES['scopes']['some']]] + self::SITES,
            $sums,
        );
        self::assertSame(
            'SELECT kilos FROM field.sums',
            SampleAccess::answer($all, 'SELECT kilos FROM field.sums'),
            'who may see every value needs no column',
        );
    }

    /**
     * @return iterable<string, array{array<string, mixed>, bool}>
     */
    public static function releases(): iterable
    {
        yield 'from everything' => [['reason' => 'Only sums'], true];
        yield 'from its source' => [['reason' => 'Only sums', 'from' => ['c.people.crew']], true];
        yield 'from another table' => [['reason' => 'Only sums', 'from' => ['c.field.pick']], false];
    }

    /**
     * @param  array<string, mixed>  $release
     */
    #[DataProvider('releases')]
    public function test_a_steward_may_let_a_table_go(array $release, bool $opens): void
    {
        $answer = SampleAccess::answer(
            self::policy(self::CLOSED + ['releases' => ['c.field.book' => $release]], self::book()),
            'SELECT * FROM field.book',
        );
        self::assertSame($opens, $answer === 'SELECT * FROM field.book', $answer);
    }

    public function test_a_table_stays_itself_under_a_new_name(): void
    {
        $policy = self::policy(self::CLOSED, self::renamed());
        self::assertStringContainsString(
            "concat('***', right(phone, 2)) ELSE '***' END AS phone, born FROM people.folk",
            SampleAccess::answer($policy, 'SELECT * FROM people.folk'),
            'masked, and the wage left out',
        );
        self::assertStringContainsString(
            'closed to ann: its rows come from c.people.crew, and grant not denies it',
            SampleAccess::answer(self::policy(self::DENIED, self::renamed()), 'SELECT id FROM people.folk'),
        );
        $label = ['labels' => ['later' => ['on' => 'c.people.folk.name', 'key' => 'personal/name', 'value' => 'full']]];
        $copy = self::table(
            'c.field.names',
            ['called' => TypeKind::Text],
            new ColumnOrigin('c.people.crew', ['called' => ['name' => true]], [], ['called' => 'name']),
        );
        self::assertStringContainsString(
            'right(called, 2)',
            SampleAccess::answer(self::policy(self::CLOSED + $label, self::renamed(), $copy), 'SELECT called FROM field.names'),
            'what is labelled under the new name holds for what was copied under the old one',
        );
    }

    public function test_every_way_of_asking_says_the_same_of_a_derived_column(): void
    {
        $policy = self::policy(self::CLOSED, self::book());
        $table = $policy->catalog->tables['c.field.book'];
        self::assertSame(
            ['id' => Sight::Visible, 'tel' => Sight::Masked, 'pay' => Sight::Hidden, 'words' => Sight::Masked, 'both' => Sight::Hidden],
            array_map(static fn ($access): Sight => $access->sight, $policy->reader('person:ann')->table($table)->columns),
        );
        foreach (
            [
                'SELECT x.b FROM field.book AS x (a, t, b, w, c)',
                'SELECT a.id FROM field.book AS a JOIN field.book AS b USING (pay)',
                'SELECT a.id FROM field.book AS a NATURAL JOIN field.book AS b',
                'WITH q AS (SELECT pay FROM field.book) SELECT count(*) FROM q',
                'SELECT id FROM field.book UNION SELECT pay FROM field.book',
                'SELECT (SELECT max(pay) FROM field.book) FROM field.pick',
                'SELECT sum(pay) OVER () FROM field.book',
                "SELECT pay FROM field.book FOR SYSTEM_TIME AS OF TIMESTAMP '2026-11-22 00:00:00'",
            ] as $sql
        ) {
            self::assertMatchesRegularExpression(
                '~book\.pay (is|and c\.field\.book\.both are) hidden for ann~',
                SampleAccess::answer($policy, $sql),
                $sql,
            );
        }
    }
}
