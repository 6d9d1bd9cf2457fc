<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Change\AskedQuery;
use Fulcrion\Core\Access\Change\Likeness;
use Fulcrion\Core\Access\Change\Replayed;
use Fulcrion\Core\Access\Change\Shift;
use Fulcrion\Core\Access\Decide\Explainer;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\Reason;
use Fulcrion\Core\Access\Decide\StatementDecider;
use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\Privilege;
use Fulcrion\Core\Access\Policy\RowFilter;
use Fulcrion\Core\Access\Provisioning\MariaDbScript;
use Fulcrion\Core\Access\Provisioning\ProvisionedRole;
use Fulcrion\Core\Access\Review\Detector;
use Fulcrion\Core\Sql\Printer;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * Why somebody sees what they see, written out to the last reason; what a change says of itself.
 */
final class ExplainerTest extends TestCase
{
    public function test_a_column_is_explained_by_every_grant_rule_label_and_scope_on_the_way(): void
    {
        $policy = SampleAccess::policy([
            'roles' => ['lead' => ['includes' => ['crew']]],
            'people' => ['cy' => ['roles' => ['lead'], 'attributes' => ['region' => 'south']]],
            'grants' => [
                'late' => [
                    'effect' => 'allow',
                    'privileges' => ['select'],
                    'on' => 'c.people',
                    'to' => ['person:cy'],
                    'until' => '2026-11-01',
                ],
                'free' => [
                    'effect' => 'allow',
                    'privileges' => ['select'],
                    'on' => 'c.people.crew',
                    'to' => ['role:crew'],
                    'except' => ['person:cy'],
                ],
                'here' => ['effect' => 'allow', 'privileges' => ['select'], 'on' => 'c.people.crew.wage', 'to' => ['everyone']],
                'other' => ['effect' => 'deny', 'privileges' => ['select'], 'on' => 'c.people.crew', 'to' => ['person:bob']],
                'write' => ['effect' => 'allow', 'privileges' => ['insert'], 'on' => 'c.people', 'to' => ['everyone']],
            ],
            'rules' => [
                'pay' => [
                    'scope' => 'c.people',
                    'for' => ['role:crew'],
                    'when' => "labelled('pay')",
                    'effect' => 'mask',
                    'mask' => 'gone',
                ],
                'phones' => ['scope' => 'c', 'for' => ['everyone'], 'when' => "labelled_below('personal')", 'effect' => 'hide'],
                'asleep' => ['scope' => 'estate', 'for' => ['everyone'], 'effect' => 'deny', 'off' => true],
                'spared' => ['scope' => 'c', 'for' => ['everyone'], 'except' => ['role:lead'], 'effect' => 'deny'],
                'theirs' => ['scope' => 'c', 'for' => ['person:bob'], 'effect' => 'deny'],
                'broken' => ['scope' => 'c.people', 'for' => ['person:cy'], 'when' => "label('pay') > 3", 'effect' => 'hide'],
                'elsewhere' => ['scope' => 'c.field', 'for' => ['everyone'], 'effect' => 'deny'],
            ],
            'labels' => ['domain' => ['on' => 'c.people', 'key' => 'domain', 'value' => 'staff']],
        ]);
        $told = self::told((new Explainer($policy, $policy->reader('person:cy')))->column(
            $policy->catalog->tables['c.people.crew'],
            'wage',
        ));
        self::assertSame(
            <<<'TEXT'
            ! cy and c.people.crew.wage: denied
              + Holds 2 roles, with those inside of them
                + role lead
                + role lead > crew
                  region = south
              + Grants: select is held
                + Grant all allows use, select at c, held as role lead > crew, inherited from there
                  Grant late allows select at c.people, but ended on 2026-11-01
                  Grant free allows select at c.people.crew, but excepts cy
                  Grant other denies select at c.people.crew, but is for others
                + Grant here allows select at c.people.crew.wage, held as everyone
                Labels: 2
                  pay = secret
                  domain = staff, inherited from c.people
              ! Rules: 6 considered, 2 with effect
                ! Rule pay at c.people, for role lead > crew: labelled('pay') holds, so it masks by gone
                  Rule phones at c, for everyone: labelled_below('personal') does not hold
                  Rule asleep at estate is switched off
                  Rule spared at c excepts role lead
                  Rule theirs at c is for others
                ! Rule broken at c.people, for cy, is in error and closes the column: (the error)
                Value scopes: this table carries no dimension
            TEXT,
            str_replace('"secret" and "3" cannot be compared: one is a number, the other is none.', '(the error)', $told),
        );
    }

    public function test_who_is_unknown_or_owns_or_is_scoped_is_told_so(): void
    {
        $policy = SampleAccess::policy([
            'people' => ['kim' => ['roles' => ['keeper']]],
            'dimensions' => ['house' => ['columns' => ['c.field.pick.house' => '', 'c.field.pick.gone' => '']]],
            'scopes' => [
                's' => ['dimension' => 'house', 'for' => ['role:crew'], 'values' => ['1', '5'], 'level' => 'detail', 'mode' => 'trim'],
                't' => ['dimension' => 'house', 'for' => ['everyone'], 'everything' => true, 'level' => 'totals', 'mode' => 'trim'],
            ],
        ]);
        $of = static fn (string $who): string => self::told(
            (new Explainer($policy, $policy->reader($who)))->column($policy->catalog->tables['c.field.pick'], 'kilos'),
        );
        self::assertStringContainsString("+ Is not in the policy, and has what everyone has\n", $of('person:zoe'));
        self::assertStringContainsString("+ Holds no role\n", $of('person:bob'));
        self::assertStringContainsString("+ Holds one role, with those inside of them\n    + role keeper\n", $of('person:kim'));
        self::assertStringContainsString('+ Owns estate, as role keeper: everything below is granted', $of('person:kim'));
        self::assertStringContainsString('! Grants: no use of c.field', $of('person:bob'));
        self::assertStringContainsString(
            "    + house, carried by house: in detail 1, 5; in totals all values\n      + Value scope s, detail, trim\n"
                ."      + Value scope t, totals, trim\n",
            $of('person:ann')."\n",
        );
        self::assertStringContainsString('house, carried by no column that is there: in detail 1, 5', $of('person:ann'));
        self::assertStringContainsString('Labels: none', $of('person:ann'));
        self::assertStringContainsString('Rules: none stands here', $of('person:ann'));
        self::assertSame(
            "! ann and drop on c.field.pick: no grant of drop on c.field.pick or above\n",
            preg_replace('~\n.*~s', "\n", self::told(
                (new Explainer($policy, $policy->reader('person:ann')))->privilege(Privilege::Drop, 'c.field.pick'),
            )),
        );
        self::assertStringStartsWith('! kim and drop on c.field.pick: allowed', self::told(
            (new Explainer($policy, $policy->reader('person:kim')))->privilege(Privilege::Drop, 'c.field.pick'),
        ));
    }

    public function test_a_statement_is_explained_table_by_table(): void
    {
        $policy = SampleAccess::policy(['rules' => [
            'north' => ['scope' => 'c.field', 'for' => ['role:crew'], 'effect' => 'filter', 'filter' => "bay > person('clearance')"],
            'tel' => [
                'scope' => 'c.people',
                'for' => ['everyone'],
                'when' => "labelled_below('personal')",
                'effect' => 'mask',
                'mask' => 'last2',
            ],
        ]]);
        $explain = static function (string $sql, string $who = 'person:ann') use ($policy): string {
            $reader = $policy->reader($who);
            $reasons = (new Explainer($policy, $reader))->statement((new StatementDecider($policy, $reader, 'c'))->decide($sql));

            return implode('', array_map(self::told(...), $reasons));
        };
        $told = $explain('SELECT p.kilos, v.tel FROM field.pick AS p JOIN people.list AS v ON v.id = p.id');
        self::assertStringContainsString("+ c.field.pick as p: 4 columns visible\n", $told);
        self::assertStringContainsString('+ Rule north leaves the rows where bay > 1', $told);
        self::assertStringContainsString('It stands in the text of c.people.list, so the grants of its owner count: role keeper.', $told);
        self::assertStringContainsString('! phone (', $told);
        $refused = $explain('DELETE FROM field.pick WHERE bay = 1');
        self::assertStringContainsString('No grant of delete on c.field.pick or above.', $refused);
        self::assertStringContainsString('+ Holds one role', $refused, 'what would have been needed is explained below it');
        self::assertStringContainsString('Grants: select is held', $explain('SELECT count(*) FROM people.crew'));
    }

    /**
     * @return iterable<string, array{string, list<string>, list<string>, array<string, mixed>, string}> filter, columns, attributes,
     *     those of the reader, what is asked
     */
    public static function filters(): iterable
    {
        yield 'no attribute' => ['Bay = 3 AND t.id > 1', ['bay', 'id'], [], [], 'Bay = 3 AND t.id > 1'];
        yield 'a text' => ["region = person('region')", ['region'], ['region'], ['region' => "it's"], "region = 'it''s'"];
        yield 'a number' => ["bay > person('a') * 2", ['bay'], ['a'], ['a' => 2.5], 'bay > 2.5 * 2'];
        yield 'a truth' => ["person('a') OR bay = 1", ['bay'], ['a'], ['a' => true], 'TRUE OR bay = 1'];
        yield 'one that is missing' => ["bay = person('a')", ['bay'], ['a'], [], 'bay = NULL'];
        yield 'a list' => ["bay IN (person('a'))", ['bay'], ['a'], ['a' => [1, 5]], 'bay IN (1, 5)'];
        yield 'a list among others' => ["bay NOT IN (7, person('a'))", ['bay'], ['a'], ['a' => ['x']], "bay NOT IN (7, 'x')"];
        yield 'an empty list' => ["bay IN (person('a'))", ['bay'], ['a'], ['a' => []], 'bay IN (NULL)'];
        yield 'one value in IN' => ["bay IN (person('a'), 2)", ['bay'], ['a'], ['a' => 1], 'bay IN (1, 2)'];
        yield 'one that is missing in IN' => ["bay IN (person('a'))", ['bay'], ['a'], [], 'bay IN (NULL)'];
        yield 'deep inside' => [
            "bay IN (1 + person('a')) AND NOT lower(person('b')) = n",
            ['bay', 'n'],
            ['a', 'b'],
            ['a' => 1, 'b' => 'X'],
            "bay IN (1 + 1) AND NOT lower('X') = n",
        ];
    }

    /**
     * @param  list<string>  $columns
     * @param  list<string>  $attributes
     * @param  array<string, bool|int|float|string|list<bool|int|float|string>>  $person
     */
    #[DataProvider('filters')]
    public function test_a_filter_is_filled_with_the_attributes_of_its_reader(
        string $text,
        array $columns,
        array $attributes,
        array $person,
        string $sql,
    ): void {
        $filter = RowFilter::parse($text);
        self::assertSame($columns, $filter->columns());
        self::assertSame($attributes, $filter->attributes());
        self::assertSame($sql, (new Printer())->expression($filter->forReader($person)));
    }

    public function test_a_filter_may_be_asked_of_columns_with_other_names(): void
    {
        $filter = RowFilter::parse("t.bay = 3 AND id > person('id') AND other = 1")->renamed(['bay' => 'place', 'id' => 'no']);
        self::assertSame(['place', 'no', 'other'], $filter->columns());
        self::assertSame('place = 3 AND "no" > 4 AND other = 1', (new Printer())->expression($filter->forReader(['id' => 4])));
    }

    /**
     * @return iterable<string, array{string, string}>
     */
    public static function noFilters(): iterable
    {
        yield 'a query' => ['bay IN (SELECT 1)', 'A filter looks at one row; it cannot hold another query.'];
        yield 'a parameter' => ['bay = ?', "A filter has no parameters; put a value in the place of ?, or person('...')."];
        yield 'a total' => ['bay > avg(bay)', 'A filter looks at one row; avg looks at many.'];
        yield 'a rank' => ['rank() OVER () = 1', 'A filter looks at one row; rank looks at many.'];
        yield 'an attribute without quotes' => ['bay = person(region)', "Write person('region'), with the name of an attribute in quotes."];
        yield 'two attributes' => ["bay = person('a', 'b')", "Write person('region')"];
    }

    #[DataProvider('noFilters')]
    public function test_what_cannot_be_a_filter_is_refused(string $text, string $message): void
    {
        $this->expectException(ConditionError::class);
        $this->expectExceptionMessage($message);
        RowFilter::parse($text);
    }

    public function test_a_list_stands_inside_in_only(): void
    {
        $this->expectException(ConditionError::class);
        $this->expectExceptionMessage('The attribute a is a list, which can only stand inside IN (...).');
        RowFilter::parse("bay = person('a')")->forReader(['a' => [1]]);
    }

    public function test_a_shift_tells_its_places(): void
    {
        $shift = static fn (string $kind, array $objects): string => (new Shift(
            $kind,
            ['person:a'],
            array_values(array_filter($objects, is_string(...))),
            'x',
            'y',
            false,
        ))->places();
        self::assertSame('c.a.t, c.a.u', $shift(Shift::ROWS, ['c.a.t', 'c.a.u']));
        self::assertSame('1, 2, 3, 4', $shift(Shift::PRIVILEGES, ['1', '2', '3', '4']));
        self::assertSame('1, 2, 3, 4 and 1 more', $shift(Shift::ROWS, ['1', '2', '3', '4', '5']));
        self::assertSame('c.a.t: x, y, z', $shift(Shift::COLUMNS, ['c.a.t.x', 'c.a.t.y', 'c.a.t.z']));
        self::assertSame('c.a.t: 4 columns; c.a.u: x', $shift(Shift::COLUMNS, ['c.a.t.w', 'c.a.t.x', 'c.a.u.x', 'c.a.t.y', 'c.a.t.z']));
        self::assertSame(
            'c.a.t1: x; c.a.t2: x; c.a.t3: x; c.a.t4: x and 2 more tables',
            $shift(Shift::COLUMNS, array_map(static fn (int $i): string => "c.a.t{$i}.x", range(1, 6))),
        );
    }

    public function test_an_outcome_is_worse_the_less_it_gives(): void
    {
        $order = ['allowed', 'trimmed', 'masked', 'masked and trimmed', 'depends on values', 'refused', 'unreadable'];
        $asked = new AskedQuery('1', 'SELECT 1', 'c', '', 'person:ann', 1);
        foreach ($order as $i => $before) {
            foreach ($order as $j => $after) {
                self::assertSame($j >= $i, (new Replayed($asked, $before, $after, ''))->isWorse(), "{$before} > {$after}");
            }
        }
    }

    public function test_people_are_alike_by_roles_and_attributes_unless_an_item_names_them(): void
    {
        $document = SampleAccess::document([
            'people' => [
                'a' => ['title' => 'Ada', 'roles' => ['crew'], 'attributes' => ['x' => 1]],
                'b' => ['title' => 'Ben', 'roles' => ['crew'], 'attributes' => ['x' => 1]],
                'c' => ['roles' => ['crew'], 'attributes' => ['x' => 2]],
                'd' => ['roles' => ['keeper'], 'attributes' => ['x' => 1]],
                'e' => ['roles' => ['crew'], 'attributes' => ['x' => 1]],
                'f' => ['roles' => ['crew'], 'attributes' => ['x' => 1]],
            ],
            'owners' => ['c.field' => ['owner' => 'person:e']],
            'rules' => ['r' => ['scope' => 'c', 'for' => ['everyone'], 'except' => ['person:f'], 'effect' => 'hide']],
        ]);
        $likeness = new Likeness($document);
        $of = static fn (string $name): string => $likeness->of("person:{$name}");
        self::assertSame($of('a'), $of('b'));
        self::assertCount(5, array_unique(array_map($of, ['a', 'b', 'c', 'd', 'e', 'f'])));
    }

    /**
     * @return iterable<string, array{string, int, int, string, string|null}> column, how many look so, of how many, type, what is found
     */
    public static function samples(): iterable
    {
        yield 'four of five values' => ['reach', 4, 5, 'text', 'e-mail'];
        yield 'seven of nine' => ['reach', 7, 9, 'text', null];
        yield 'two of five, and the name says so' => ['work_email', 2, 5, 'text', 'e-mail'];
        yield 'three of eight' => ['work_email', 3, 8, 'text', null];
        yield 'fewer than five' => ['work_email', 4, 4, 'text', null];
        yield 'the name in the middle of a word' => ['emailing_batch', 2, 5, 'text', null];
        yield 'the name in capitals' => ['E_MAIL', 2, 5, 'text', 'e-mail'];
        yield 'the name in the plural' => ['mails', 2, 5, 'text', 'e-mail'];
    }

    #[DataProvider('samples')]
    public function test_a_column_is_told_by_enough_of_its_values(string $name, int $hits, int $all, string $type, ?string $kind): void
    {
        $values = [];
        for ($i = 0; $i < $all; $i++) {
            $values[] = $i < $hits ? "p{$i}@site.example" : "thing {$i}";
        }
        $values[] = null;
        $values[] = '  ';
        $found = Detector::look($name, $values, $type, '2026-11-23');
        self::assertSame($kind, $found?->kind);
        if ($found !== null) {
            self::assertSame([$hits / $all, $all, 'personal/email'], [$found->rate, $found->sampled, $found->key]);
            self::assertSame(
                round($hits / $all * 100)."% of {$all} sampled values look like e-mail".
                    ($name === 'reach' ? '' : ', and the name says so').'; such as p0@xxxx.xxxxxxx, ',
                substr($found->evidence(), 0, (int) strpos($found->evidence(), 'such as ') + 25),
            );
        }
    }

    /**
     * @return iterable<string, array{string, bool}>
     */
    public static function numbers(): iterable
    {
        yield 'an account of 22 characters' => ['GB82 WEST 1234 5698 7654 32', true];
        yield 'in small letters' => ['gb82west12345698765432', true];
        yield 'with hyphens' => ['DE89-3704-0044-0532-0130-00', true];
        yield 'one digit more' => ['GB82 WEST 1234 5698 7654 33', false];
        yield 'two digits changed places' => ['GB28 WEST 1234 5698 7654 32', false];
        yield 'too short' => ['GB82WEST1234', false];
        yield 'a card of 16 digits' => ['4539578763621486', true];
        yield 'a card of 15 digits' => ['378282246310005', true];
        yield 'a card with one digit more' => ['4539578763621487', false];
        yield 'twelve digits' => ['453957876362', false];
        yield 'words' => ['ACCOUNT', false];
    }

    #[DataProvider('numbers')]
    public function test_numbers_of_accounts_are_told_by_their_check_digits(string $value, bool $is): void
    {
        self::assertSame($is, Detector::isAccount($value));
    }

    public function test_a_changed_digit_is_always_noticed(): void
    {
        foreach (['GB82WEST12345698765432', '4539578763621486'] as $good) {
            foreach (str_split($good) as $at => $character) {
                foreach (ctype_digit($character) ? range(0, 9) : [] as $digit) {
                    self::assertSame(
                        (string) $digit === $character,
                        Detector::isAccount(substr_replace($good, (string) $digit, $at, 1)),
                        "{$good}: {$digit} at {$at}",
                    );
                }
            }
        }
    }

    public function test_a_server_is_led_from_what_it_has_to_what_it_should_have(): void
    {
        $role = self::role(...);
        $text = static fn (string $mark): string => "SELECT * FROM (SELECT 1) AS seen WHERE 'written as {$mark}' <> ''";
        $from = [
            'guard_a' => $role('guard_a', ['ann', 'bob'], ['SELECT ON `f`.`x`', 'SELECT ON `f`.`y`'], [
                '`f`.`guard_same`' => 'select `seen`.`1` AS `1` from ... where '."'written as 00000000000000aa' <> ''",
                '`f`.`guard_other`' => $text('00000000000000bb'),
                '`f`.`guard_gone`' => $text('00000000000000cc'),
            ]),
            'guard_old' => $role('guard_old', ['dee'], ['SELECT ON `f`.`z`'], ['`f`.`guard_last`' => $text('00000000000000ee')]),
        ];
        $to = [
            'guard_a' => $role('guard_a', ['bob', 'cy'], ['SELECT ON `f`.`y`', 'SELECT, INSERT ON `f`.`x`'], [
                '`f`.`guard_same`' => $text('00000000000000aa'),
                '`f`.`guard_other`' => $text('00000000000000bc'),
            ]),
            'guard_new' => $role('guard_new', ['eve'], ['SELECT ON `f`.`y`']),
        ];
        $accounts = ['ann' => ["'ann'@'%'"], 'cy' => ["'cy'@'%'", "'cy'@'localhost'"], 'dee' => ["'dee'@'%'"]];
        self::assertSame(
            [
                'CREATE OR REPLACE ALGORITHM=TEMPTABLE SQL SECURITY DEFINER VIEW `f`.`guard_other` AS '.$text('00000000000000bc'),
                'REVOKE SELECT ON `f`.`x` FROM `guard_a`',
                'GRANT SELECT, INSERT ON `f`.`x` TO `guard_a`',
                "REVOKE `guard_a` FROM 'ann'@'%'",
                "GRANT `guard_a` TO 'cy'@'%'",
                "GRANT `guard_a` TO 'cy'@'localhost'",
                'CREATE ROLE IF NOT EXISTS `guard_new`',
                'GRANT SELECT ON `f`.`y` TO `guard_new`',
                'DROP VIEW IF EXISTS `f`.`guard_gone`',
                'DROP VIEW IF EXISTS `f`.`guard_last`',
                'DROP ROLE IF EXISTS `guard_old`',
            ],
            MariaDbScript::statements($from, $to, $accounts),
            'what is the same already is left alone, and eve has no account',
        );
        self::assertSame([], MariaDbScript::statements($to, $to, $accounts));
    }

    public function test_people_who_stand_alike_share_a_role_with_what_is_left_to_them(): void
    {
        $policy = SampleAccess::policy([
            'people' => ['cy' => ['roles' => ['crew'], 'attributes' => ['region' => 'south']], 'dee' => ['roles' => ['crew']]],
            'grants' => [
                'all' => ['effect' => 'allow', 'privileges' => ['use', 'select', 'insert', 'drop'], 'on' => 'c', 'to' => ['role:crew']],
                'not' => ['effect' => 'deny', 'privileges' => ['select'], 'on' => 'c.people.list', 'to' => ['everyone']],
            ],
            'rules' => ['pay' => ['scope' => 'c.people', 'for' => ['role:crew'], 'when' => "labelled('pay')", 'effect' => 'hide']],
        ]);
        $script = new MariaDbScript($policy, 'c', 'key');
        $roles = array_values($script->roles());
        self::assertCount(1, $roles, 'attributes no rule asks for part nobody, and bob may do nothing');
        self::assertSame(['ann', 'cy', 'dee'], $roles[0]->people);
        self::assertMatchesRegularExpression('~^guard_crew_[0-9a-f]{5}$~', $roles[0]->name);
        self::assertArrayHasKey('SELECT, INSERT ON field.pick', $roles[0]->grants, 'drop is not given there');
        self::assertCount(2, $roles[0]->grants, 'the table as it is, the other as a view without what is hidden');
        $view = (string) array_key_first($roles[0]->views);
        self::assertStringStartsWith('people.guard_crew_crew_', $view);
        self::assertArrayHasKey("SELECT ON {$view}", $roles[0]->grants);
        self::assertStringContainsString('SELECT id, name, phone, born FROM people.crew', $roles[0]->views[$view]);
        self::assertMatchesRegularExpression("~ AS seen WHERE 'written as [0-9a-f]{16}' <> ''$~", $roles[0]->views[$view]);
        self::assertSame([], (new MariaDbScript($policy, 'd', 'key'))->roles(), 'of another cluster there is nothing to give');
    }

    public function test_what_a_server_cannot_say_is_said(): void
    {
        $always = 'Each account takes its role up with SET ROLE; it can make that its own default with SET DEFAULT ROLE.';
        $limits = static fn (Policy $policy): array => (new MariaDbScript($policy, 'c', 'key'))->limits();
        self::assertSame([$always], $limits(SampleAccess::policy()));
        $ends = static fn (string $on): array => ['grants' => [
            'ends' => ['effect' => 'allow', 'privileges' => ['select'], 'on' => $on, 'to' => ['role:crew'], 'until' => '2027-01-31'],
        ]];
        $days = 'Days on which grants end are not known to the server: write the policy out again after 2027-01-31.';
        self::assertSame([$always, $days], $limits(SampleAccess::policy($ends('c.people'))));
        self::assertSame([$always, $days], $limits(SampleAccess::policy($ends('estate'))));
        self::assertSame([$always], $limits(SampleAccess::policy($ends('d.people'))));
        $scoped = $limits(SampleAccess::policy(['dimensions' => ['house' => ['columns' => ['c.field.pick.house' => '']]]]));
        self::assertSame(
            'Value scopes are written as the rows allowed in detail: the server trims and never refuses, and has no level for totals.',
            $scoped[1],
        );
    }

    /**
     * @param  list<string>  $people
     * @param  list<string>  $grants
     * @param  array<string, string>  $views
     */
    private static function role(string $name, array $people, array $grants, array $views = []): ProvisionedRole
    {
        return new ProvisionedRole($name, $people, array_combine($grants, $grants), $views);
    }

    /** One line a reason, indented; ! before what decides, + before what adds. */
    private static function told(Reason $reason, int $depth = 0): string
    {
        $mark = ['decides' => '! ', 'adds' => '+ ', 'nothing' => '  '][$reason->weight];
        $lines = str_repeat('  ', $depth).$mark.$reason->text;
        foreach ($reason->inner as $one) {
            $lines .= "\n".self::told($one, $depth + 1);
        }

        return $lines.($depth === 0 && $reason->inner === [] ? "\n" : '');
    }
}
