<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Review\Remark;
use Fulcrion\Core\Access\Review\Review;
use Fulcrion\Core\Access\Review\Usage;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * Each check of a review, with what it says, what it proposes, and what lies just beside it and is left alone.
 */
final class ReviewTest extends TestCase
{
    /** Of the second of two with one name the example's own is left out: crew may use and select all of c, by grant "all". */
    private const CREW = ['effect' => 'allow', 'privileges' => ['select'], 'to' => ['role:crew']];

    public function test_an_unused_grant_is_told_with_who_holds_it_and_what_they_ran_instead(): void
    {
        $grants = ['pay' => ['on' => 'c.people', 'reason' => 'once for a report'] + self::CREW];
        $found = self::remarks(['grants' => $grants], 'unused-grant', [self::read('ann', 'c.field.pick', 7)]);
        self::assertSame(['pay'], self::objects($found));
        self::assertSame('Role crew may select c.people by grant pay, and read nothing of it in 28 days.', $found[0]->problem);
        self::assertSame(
            ['statements they ran instead' => '7', 'days looked at' => '28', 'reason given' => 'once for a report'],
            $found[0]->evidence,
        );
        self::assertTrue($found[0]->act);
        self::assertSame('c.people', $found[0]->at);
        self::assertSame([], $found[0]->put);
        self::assertSame([[Kind::Grants, 'pay']], $found[0]->remove, 'nobody else holds it, so it goes');
    }

    public function test_of_a_grant_that_some_use_only_the_others_are_taken_out(): void
    {
        $grants = [
            'all' => ['effect' => 'allow', 'privileges' => ['use'], 'on' => 'c', 'to' => ['role:crew']],
            'some' => ['on' => 'c.people.crew', 'to' => ['person:ann', 'person:bob', 'person:cy']] + self::CREW,
        ];
        $people = ['cy' => []];
        $usage = [
            self::read('ann', 'c.people.crew', 4),
            self::read('bob', 'c.field.pick', 3),
            self::read('bob', 'c.people.list', 2),
        ];
        $found = self::remarks(['grants' => $grants, 'people' => $people], 'unused-grant', $usage);
        self::assertSame(['some'], self::objects($found));
        self::assertStringStartsWith('Bob may select', $found[0]->problem, 'cy ran nothing, so nobody can say what cy needs');
        self::assertSame('5', $found[0]->evidence['statements they ran instead'], 'both of the tables beside it');
        self::assertSame([], $found[0]->remove);
        self::assertSame([['person:ann', 'person:cy']], array_map(static fn (Item $item): array => $item->texts('to'), $found[0]->put));
        self::assertSame('c.people.crew', $found[0]->put[0]->text('on'), 'the rest of the grant stays as it is');
    }

    /**
     * @return iterable<string, array{array<string, mixed>, list<Usage>, bool}>
     */
    public static function grantsAndUse(): iterable
    {
        $here = [self::read('ann', 'c.field.pick', 1)];
        yield 'nothing is known of use' => [['on' => 'c.people'], [], false];
        yield 'the table itself was read' => [['on' => 'c.field.pick'], $here, false];
        yield 'one below was read' => [['on' => 'c.field'], $here, false];
        yield 'a column of it was granted' => [['on' => 'c.field.pick.bay'], $here, false];
        yield 'the whole estate was granted' => [['on' => 'estate'], $here, false];
        yield 'a name that only begins alike' => [['on' => 'c.fie'], $here, true];
        yield 'a cluster nobody watches' => [['on' => 'd.people'], $here, false];
        yield 'a deny' => [['on' => 'c.people', 'effect' => 'deny'], $here, false];
        yield 'ended yesterday' => [['on' => 'c.people', 'until' => '2026-11-22'], $here, false];
        yield 'ends today' => [['on' => 'c.people', 'until' => SampleAccess::DAY], $here, true];
        yield 'nothing is read by it' => [['on' => 'c.people', 'privileges' => ['insert', 'use']], $here, false];
        yield 'among other privileges' => [['on' => 'c.people', 'privileges' => ['insert', 'select']], $here, true];
        yield 'read by somebody else' => [['on' => 'c.people'], [self::read('bob', 'c.field.pick', 1)], false];
        yield 'used by a person who holds the role by another' => [
            ['on' => 'c.people', 'to' => ['role:outer']],
            [self::read('cy', 'c.people.crew', 1)],
            false,
        ];
        yield 'for everyone, of whom one used it' => [
            ['on' => 'c.field.pick', 'to' => ['everyone']],
            [...$here, self::read('bob', 'c.people.crew', 9)],
            false,
        ];
    }

    /**
     * @param  array<string, mixed>  $grant
     * @param  list<Usage>  $usage
     */
    #[DataProvider('grantsAndUse')]
    public function test_a_grant_is_called_unused_only_where_that_is_known(array $grant, array $usage, bool $isUnused): void
    {
        $sections = [
            'grants' => [
                'all' => ['effect' => 'allow', 'privileges' => ['use'], 'on' => 'c', 'to' => ['role:crew']],
                'this' => $grant + self::CREW,
            ],
            'roles' => ['inner' => ['includes' => ['outer']], 'outer' => []],
            'people' => ['cy' => ['roles' => ['inner']]],
        ];
        self::assertSame($isUnused ? ['this'] : [], self::objects(self::remarks($sections, 'unused-grant', $usage)));
    }

    public function test_grants_to_single_people_are_told_one_by_one(): void
    {
        $found = self::remarks(
            [
                'people' => [
                    'dee' => ['title' => 'Dee Farrow', 'roles' => ['crew']],
                    'robot' => ['kind' => 'service'],
                ],
                'grants' => [
                    'two' => [
                        'on' => 'c.field',
                        'to' => ['person:dee', 'person:bob', 'person:robot', 'role:crew'],
                        'until' => '2027-03-01',
                        'privileges' => ['select', 'insert'],
                        'reason' => 'harvest',
                    ] + self::CREW,
                    'not' => ['on' => 'c.people', 'to' => ['person:bob'], 'effect' => 'deny'] + self::CREW,
                    'own' => ['on' => 'c.people', 'to' => ['person:bob']] + self::CREW,
                    'machine' => ['on' => 'c.people', 'to' => ['person:robot']] + self::CREW,
                ],
            ],
            'direct-grant',
        );
        self::assertSame(['two dee', 'two bob', 'own bob'], self::objects($found));
        self::assertSame('Dee Farrow holds select, insert on c.field directly, by grant two.', $found[0]->problem);
        self::assertSame('bob holds select on c.people directly, by grant own.', $found[2]->problem, 'a name where there is no title');
        self::assertSame(
            ['person' => 'dee', 'roles held' => 'crew', 'until' => '2027-03-01', 'reason given' => 'harvest'],
            $found[0]->evidence,
        );
        self::assertSame('for ever', $found[2]->evidence['until']);
        self::assertSame(['person:bob', 'person:robot', 'role:crew'], $found[0]->put[0]->texts('to'));
        self::assertSame([[], [[Kind::Grants, 'own']]], [$found[2]->put, $found[2]->remove]);
        self::assertSame([true, 'c.field'], [$found[0]->act, $found[0]->at]);
    }

    /**
     * @return iterable<string, array{int, int, array<string, array<string, array<string, mixed>>>, list<string>}>
     */
    public static function crowds(): iterable
    {
        yield 'more than a quarter' => [3, 8, [], ['c.people.crew.phone']];
        yield 'a quarter and no more' => [2, 6, [], []];
        yield 'too few people to tell' => [2, 1, [], []];
        yield 'four are enough' => [2, 2, [], ['c.people.crew.phone']];
        yield 'masked for all of them' => [
            4,
            0,
            ['rules' => ['m' => [
                'scope' => 'c',
                'for' => ['everyone'],
                'when' => "labelled_below('personal')",
                'effect' => 'mask',
                'mask' => 'last2',
            ]]],
            [],
        ];
        yield 'accounts of programs are no people' => [
            2,
            6,
            ['people' => [
                'x1' => ['kind' => 'service', 'roles' => ['crew']],
                'x2' => ['kind' => 'service', 'roles' => ['crew']],
            ]],
            [],
        ];
        yield 'a whole table is labelled' => [
            4,
            0,
            ['labels' => ['t' => ['on' => 'c.field.pick', 'key' => 'personal']]],
            ['c.people.crew.phone', 'c.field.pick.bay', 'c.field.pick.id', 'c.field.pick.house', 'c.field.pick.kilos'],
        ];
        yield 'a key that only begins alike' => [
            4,
            0,
            ['labels' => ['t' => ['on' => 'c.field.pick', 'key' => 'personalised']]],
            ['c.people.crew.phone'],
        ];
        yield 'another label on the same table' => [
            4,
            0,
            ['labels' => ['phone' => ['on' => 'c.people.crew.born', 'key' => 'personal', 'value' => '']]],
            ['c.people.crew.born'],
        ];
    }

    /**
     * @param  array<string, array<string, array<string, mixed>>>  $sections
     * @param  list<string>  $columns
     */
    #[DataProvider('crowds')]
    public function test_personal_columns_are_told_where_more_than_a_quarter_see_them(
        int $holders,
        int $others,
        array $sections,
        array $columns,
    ): void {
        // Ann holds the role and Bob does not.
        $people = [];
        for ($i = 1; $i < $holders; $i++) {
            $people["h{$i}"] = ['roles' => ['crew']];
        }
        for ($i = 1; $i < $others; $i++) {
            $people["o{$i}"] = [];
        }
        if ($others === 0) {
            $people['bob'] = ['roles' => ['crew']];
        }
        $sections['people'] = $people + ($sections['people'] ?? []);
        $found = self::remarks($sections, 'wide-personal');
        self::assertSame($columns, self::objects($found));
        $all = $holders + $others + ($others === 0 ? 1 : 0);
        $see = $holders + ($others === 0 ? 1 : 0);
        foreach ($found as $remark) {
            self::assertSame(
                "{$see} of {$all} people see {$remark->object} plainly, and it is labelled personal.",
                $remark->problem,
            );
            self::assertSame(['people' => (string) $see, 'of' => (string) $all], $remark->evidence);
            self::assertSame($remark->object, $remark->at);
        }
    }

    /**
     * @return iterable<string, array{array<string, mixed>, bool}>
     */
    public static function denies(): iterable
    {
        yield 'allowed above' => [['on' => 'c.people.crew'], false];
        yield 'allowed below' => [['on' => 'estate'], false];
        yield 'another privilege' => [['on' => 'c.people', 'privileges' => ['drop']], true];
        yield 'one of several' => [['on' => 'c.people', 'privileges' => ['drop', 'select']], false];
        yield 'of somebody who is allowed nothing' => [['on' => 'c.people', 'to' => ['person:bob']], true];
        yield 'of one among several' => [['on' => 'c.people', 'to' => ['person:bob', 'person:ann']], false];
        yield 'of everyone' => [['on' => 'c.people', 'to' => ['everyone']], false];
        yield 'elsewhere' => [['on' => 'd.people'], true];
        yield 'of the owner of all' => [['on' => 'd.people', 'privileges' => ['drop'], 'to' => ['person:kim']], false];
        yield 'ended' => [['on' => 'c.people', 'privileges' => ['drop'], 'until' => '2026-11-22'], false];
        yield 'ends today' => [['on' => 'c.people', 'privileges' => ['drop'], 'until' => SampleAccess::DAY], true];
        yield 'an allow is none' => [['on' => 'c.people', 'privileges' => ['drop'], 'effect' => 'allow'], false];
    }

    /**
     * @param  array<string, mixed>  $deny
     */
    #[DataProvider('denies')]
    public function test_a_deny_is_idle_where_nobody_it_is_for_is_allowed_anything(array $deny, bool $isIdle): void
    {
        $found = self::remarks(
            [
                'grants' => ['this' => $deny + ['effect' => 'deny'] + self::CREW],
                'people' => ['kim' => ['roles' => ['keeper']]],
            ],
            'idle-deny',
        );
        self::assertSame($isIdle ? ['this'] : [], self::objects($found));
        foreach ($found as $remark) {
            self::assertFalse($remark->act);
            self::assertSame([[Kind::Grants, 'this']], $remark->remove);
            self::assertStringStartsWith('The deny this at ', $remark->problem);
        }
    }

    public function test_what_an_idle_deny_says(): void
    {
        $deny = ['on' => 'c.people', 'privileges' => ['drop', 'insert'], 'effect' => 'deny', 'to' => ['role:crew', 'person:bob']];
        $found = self::remarks(['grants' => ['this' => $deny]], 'idle-deny');
        self::assertSame(
            'The deny this at c.people changes nothing: nobody it is for is allowed drop, insert there.',
            $found[0]->problem,
        );
        self::assertSame(['for' => 'role crew, bob'], $found[0]->evidence);
        self::assertSame('c.people', $found[0]->at);
    }

    /**
     * @return iterable<string, array{array<string, mixed>, string|null}>
     */
    public static function rules(): iterable
    {
        $nobody = 'it concerns nobody';
        $nothing = 'its condition holds for no object in its scope';
        yield 'always' => [[], null];
        yield 'a label that is there' => [['when' => "labelled('pay')"], null];
        yield 'a label that is elsewhere' => [['when' => "labelled('pay')", 'scope' => 'c.field'], $nothing];
        yield 'a label nobody has' => [['when' => "labelled('wages')"], $nothing];
        yield 'switched off' => [['when' => "labelled('wages')", 'off' => true], null];
        yield 'a role without holders' => [['for' => ['role:keeper']], $nobody];
        yield 'a role and somebody' => [['for' => ['role:keeper', 'person:bob']], null];
        yield 'all of them are excepted' => [['except' => ['person:ann']], $nobody];
        yield 'one of two is excepted' => [['for' => ['everyone'], 'except' => ['person:ann']], null];
        yield 'by an attribute somebody has' => [['when' => "labelled('pay') AND person('region') = 'north'"], null];
        yield 'by an attribute nobody has' => [['when' => "labelled('pay') AND person('region') = 'south'"], $nothing];
        yield 'a filter' => [['scope' => 'c.field', 'effect' => 'filter', 'filter' => 'bay > 3'], null];
        yield 'a filter of nothing' => [
            ['scope' => 'c.field', 'effect' => 'filter', 'filter' => 'bay > 3', 'when' => "labelled('pay')"],
            $nothing,
        ];
        yield 'a mask' => [['effect' => 'mask', 'mask' => 'gone', 'when' => "labelled_below('personal')"], null];
        yield 'nothing is there' => [['scope' => 'c.gone'], $nothing];
    }

    /**
     * @param  array<string, mixed>  $rule
     */
    #[DataProvider('rules')]
    public function test_a_rule_is_idle_where_it_meets_nobody_or_nothing(array $rule, ?string $why): void
    {
        $rule += ['scope' => 'c', 'for' => ['role:crew'], 'effect' => 'hide'];
        $found = self::remarks(['rules' => ['this' => $rule]], 'idle-rule');
        self::assertSame(
            $why === null ? [] : ["Rule this matches nothing: {$why}."],
            array_map(static fn (Remark $one): string => $one->problem, $found),
        );
        foreach ($found as $remark) {
            self::assertTrue($remark->act);
            self::assertSame($rule['scope'], $remark->at);
            self::assertSame(
                ['scope' => $rule['scope'], 'when' => $rule['when'] ?? 'always'],
                array_diff_key($remark->evidence, ['for' => true]),
            );
        }
    }

    /**
     * @return iterable<string, array{string, string|null, bool}> last day, what is said, whether it goes
     */
    public static function lastDays(): iterable
    {
        yield 'a day ago' => ['2026-11-22', 'ended on 2026-11-22 and has no effect.', true];
        yield 'today' => ['2026-11-23', 'ends on 2026-11-23.', false];
        yield 'in 14 days' => ['2026-12-07', 'ends on 2026-12-07.', false];
        yield 'in 15 days' => ['2026-12-08', null, false];
        yield 'never' => ['', null, false];
    }

    #[DataProvider('lastDays')]
    public function test_what_ends_within_fourteen_days_is_told(string $until, ?string $says, bool $goes): void
    {
        $scope = [
            'dimension' => 'house',
            'for' => ['role:crew', 'person:bob'],
            'values' => ['1'],
            'level' => 'detail',
            'mode' => 'trim',
            'until' => $until,
        ];
        $found = self::remarks(
            [
                'grants' => ['g' => ['on' => 'c.field', 'until' => $until] + self::CREW],
                'dimensions' => ['house' => ['columns' => ['c.field.pick.house' => '']]],
                'scopes' => ['s' => $scope],
            ],
            'ending-grant',
        );
        self::assertSame(
            $says === null ? [] : ["Grant g {$says}", "Value scope s {$says}"],
            array_map(static fn (Remark $one): string => $one->problem, $found),
        );
        if ($says !== null) {
            self::assertSame(['grant g', 'value scope s'], self::objects($found));
            self::assertSame(
                $goes ? [[[Kind::Grants, 'g']], [[Kind::Scopes, 's']]] : [[], []],
                array_map(static fn (Remark $one): array => $one->remove, $found),
            );
            self::assertSame(['role crew', 'role crew, bob'], array_map(static fn (Remark $one): string => $one->evidence['for'], $found));
            self::assertSame([false, 'c.field', ''], [$found[0]->act, $found[0]->at, $found[1]->at]);
        }
    }

    public function test_who_has_neither_role_nor_team_is_told(): void
    {
        $found = self::remarks(
            ['people' => [
                'a' => ['title' => 'Ada Brook'],
                'b' => ['attributes' => ['team' => 'lab']],
                'c' => ['attributes' => ['region' => 'north']],
                'd' => ['kind' => 'service'],
                'e' => ['roles' => ['crew']],
                'bob' => ['roles' => ['crew']],
            ]],
            'no-team',
        );
        self::assertSame(['a', 'c'], self::objects($found));
        self::assertSame('Ada Brook holds no role and has no attribute team.', $found[0]->problem);
        self::assertSame('c holds no role and has no attribute team.', $found[1]->problem);
    }

    /**
     * @return iterable<string, array{array<string, mixed>, bool}> the second rule, whether the two contradict each other
     */
    public static function secondRules(): iterable
    {
        yield 'another effect' => [['effect' => 'hide'], true];
        yield 'another mask' => [['mask' => 'last4'], true];
        yield 'the same' => [[], false];
        yield 'another condition' => [['effect' => 'hide', 'when' => "labelled('pay')"], false];
        yield 'other people' => [['effect' => 'hide', 'for' => ['role:keeper']], false];
        yield 'some of the people' => [['effect' => 'hide', 'for' => ['role:keeper', 'role:crew']], true];
        yield 'below' => [['effect' => 'hide', 'scope' => 'c.people.crew'], true];
        yield 'above' => [['effect' => 'hide', 'scope' => 'estate'], true];
        yield 'beside' => [['effect' => 'hide', 'scope' => 'c.field'], false];
        yield 'switched off' => [['effect' => 'hide', 'off' => true], false];
        yield 'a filter is another thing' => [['effect' => 'filter', 'filter' => 'id > 1'], false];
    }

    /**
     * @param  array<string, mixed>  $second
     */
    #[DataProvider('secondRules')]
    public function test_two_rules_contradict_each_other_about_the_same_columns_for_the_same_people(array $second, bool $do): void
    {
        $first = [
            'scope' => 'c.people',
            'for' => ['role:crew'],
            'when' => "labelled_below('personal')",
            'effect' => 'mask',
            'mask' => 'last2',
        ];
        $found = self::remarks(['rules' => ['one' => $first, 'other' => $second + $first]], 'contradiction');
        self::assertSame($do ? ['one and other'] : [], self::objects($found));
        if ($do) {
            $effect = $second['effect'] ?? 'mask';
            self::assertSame(
                "Rules one (mask) and other ({$effect}) say different things of the same columns to the same people.",
                $found[0]->problem,
            );
            self::assertSame(["labelled_below('personal')", 'c.people'], [$found[0]->evidence['when'], $found[0]->at]);
        }
    }

    public function test_labels_outside_of_their_vocabulary_are_told_with_what_is_allowed(): void
    {
        $found = self::remarks(
            [
                'vocabulary' => [
                    'pay' => ['description' => 'wages', 'values' => ['open', 'closed']],
                    'free' => ['description' => 'any value'],
                ],
                'labels' => [
                    'good' => ['on' => 'c.people.crew.born', 'key' => 'pay', 'value' => 'closed'],
                    'any' => ['on' => 'c.people.crew.born', 'key' => 'free', 'value' => 'x'],
                ],
            ],
            'stray-label',
        );
        self::assertSame(['wage'], self::objects($found));
        self::assertSame('c.people.crew.wage carries pay = "secret", which the vocabulary does not allow.', $found[0]->problem);
        self::assertSame(['key' => 'pay', 'value' => 'secret', 'allowed' => 'open, closed'], $found[0]->evidence);
        self::assertSame('c.people.crew.wage', $found[0]->at);
    }

    public function test_what_a_document_names_that_is_not_there_is_a_lost_object(): void
    {
        $found = self::remarks(
            [
                'grants' => ['g' => ['on' => 'c.gone'] + self::CREW],
                'dimensions' => ['house' => ['columns' => ['c.field.pick.gone' => '']]],
                'labels' => ['l' => ['on' => 'c.people.crew.gone', 'key' => 'x']],
            ],
            'lost-object',
        );
        self::assertSame(
            ['c.gone', 'c.people.crew.gone', 'c.field.pick.gone'],
            array_map(static fn (Remark $one): string => preg_match('~c\.[a-z.]*gone~', $one->problem, $m) === 1 ? $m[0] : '', $found),
        );
        self::assertCount(3, array_unique(self::objects($found)));
    }

    public function test_a_rule_that_fails_when_it_is_asked_is_told_with_how_much_it_closes(): void
    {
        $found = self::remarks(
            [
                'people' => ['cy' => ['roles' => ['crew']]],
                'rules' => [
                    'odd' => [
                        'scope' => 'c.people.crew',
                        'for' => ['role:crew'],
                        'when' => "label('personal/phone') > 3",
                        'effect' => 'hide',
                    ],
                    'fine' => ['scope' => 'c.people', 'for' => ['everyone'], 'when' => "labelled('pay')", 'effect' => 'hide'],
                ],
            ],
            'hidden-data',
        );
        self::assertSame(['rule odd'], self::objects($found));
        self::assertStringStartsWith('Rule odd is in error and closes one table to 2 people: ', $found[0]->problem);
        self::assertStringContainsString('"direct" and "3" cannot be compared', $found[0]->problem);
        self::assertSame(['tables' => 'c.people.crew'], $found[0]->evidence);
        self::assertSame('c.people.crew', $found[0]->at);
    }

    public function test_every_kind_of_remark_is_explained(): void
    {
        $policy = SampleAccess::policy(['rules' => ['x' => ['scope' => 'c', 'for' => ['role:keeper'], 'effect' => 'hide']]]);
        foreach ((new Review($policy, [], 28))->remarks() as $remark) {
            self::assertArrayHasKey($remark->check, Review::CHECKS);
        }
        foreach (Review::CHECKS as [, $why]) {
            self::assertStringEndsWith('.', $why);
        }
    }

    private static function read(string $person, string $table, int $executions): Usage
    {
        return new Usage("person:{$person}", $table, $executions, '2026-11-20');
    }

    /**
     * @param  array<string, array<string, array<string, mixed>>>  $sections
     * @param  list<Usage>  $usage
     * @return list<Remark>
     */
    private static function remarks(array $sections, string $check, array $usage = []): array
    {
        return array_values(
            array_filter(
                (new Review(SampleAccess::policy($sections), $usage, 28))->remarks(),
                static fn (Remark $remark): bool => $remark->check === $check,
            ),
        );
    }

    /**
     * @param  list<Remark>  $remarks
     * @return list<string>
     */
    private static function objects(array $remarks): array
    {
        return array_map(static fn (Remark $remark): string => $remark->object, $remarks);
    }
}
