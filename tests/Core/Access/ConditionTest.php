<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Policy\Condition;
use Fulcrion\Core\Access\Policy\ConditionError;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * When a condition of a rule holds: what each function sees, what compares with what, and the four truths.
 */
final class ConditionTest extends TestCase
{
    private const LABELS = ['personal/phone' => 'direct', 'level' => '3', 'flag' => 'true', 'no' => 'false', 'odd' => ''];

    private const TABLE = ['domain' => 'harvest', 'pay/base' => 'y'];

    private const COLUMNS = ['personal/phone' => true, 'pay' => true];

    private const PERSON = [
        'region' => 'north',
        'clearance' => 2,
        'share' => 0.5,
        'active' => true,
        'left' => false,
        'teams' => ['lab', 'shop', 4, true],
        'sites' => ['a', 'b'],
        'none' => [],
        'digits' => '12',
    ];

    /**
     * @return iterable<string, array{string, bool}>
     */
    public static function conditions(): iterable
    {
        $cases = [
            '' => true,
            '   ' => true,
            "label('personal/phone') = 'direct'" => true,
            "label('personal/phone') = 'DIRECT'" => false,
            "label('personal') = 'direct'" => false,
            "label('domain') = 'harvest'" => false,
            "table_label('domain') = 'harvest'" => true,
            "labelled('personal/phone')" => true,
            "labelled('personal')" => false,
            "labelled('odd')" => true,
            "labelled_below('personal')" => true,
            "labelled_below('personal/phone')" => true,
            "labelled_below('person')" => false,
            "labelled_below('personal/phone/home')" => false,
            "labelled_below('pay')" => false,
            "table_labelled('domain')" => true,
            "table_labelled('pay')" => false,
            "table_labelled_below('pay')" => true,
            "column_labelled_below('pay')" => true,
            "column_labelled_below('personal')" => true,
            "column_labelled_below('domain')" => false,
            "person('region') = 'north'" => true,
            "person('clearance') = 2" => true,
            "person('clearance') < 2" => false,
            "person('clearance') <= 2" => true,
            "person('clearance') > 1.5" => true,
            "person('clearance') >= 2.0" => true,
            "person('clearance') <> 2" => false,
            "person('share') = 0.5" => true,
            "person('digits') = 12" => true,
            "person('digits') > 9" => true,
            "person('digits') > '9'" => false,
            "label('level') >= 3" => true,
            "label('level') > person('clearance')" => true,
            "person('active') AND TRUE" => true,
            "person('left') OR label('flag')" => true,
            "person('left') OR label('no')" => false,
            "person('active') = 'true'" => true,
            'TRUE' => true,
            'NOT FALSE' => true,
            "person_has('teams', 'lab')" => true,
            "person_has('teams', 'la')" => false,
            "person_has('teams', '4')" => true,
            "person_has('teams', 'true')" => true,
            "person_has('region', 'north')" => true,
            "person_has('none', '')" => false,
            "person_has('lacking', 'x')" => false,
            "has_role('keeper')" => true,
            "has_role('crew')" => false,
            "person('region') IN ('south', 'north')" => true,
            "person('region') NOT IN ('south', 'east')" => true,
            "'b' IN (person('sites'), 'x')" => true,
            "'x' IN (person('sites'), 'x')" => true,
            "'c' IN (person('sites'), 'x')" => false,
            "'a' IN (person('none'))" => false,
            "person('clearance') BETWEEN 2 AND 3" => true,
            "person('clearance') BETWEEN 1 AND 2" => true,
            "person('clearance') BETWEEN 3 AND 9" => false,
            "person('clearance') NOT BETWEEN 3 AND 9" => true,
            "person('clearance') > -1" => true,
            "person('clearance') > - -3" => false,
            "person('region') LIKE 'n%h'" => true,
            "person('region') LIKE 'n_r_h'" => true,
            "person('region') LIKE 'n_h'" => false,
            "person('region') LIKE 'N%'" => false,
            "person('region') NOT LIKE 's%'" => true,
            "'a.c' LIKE 'a.c'" => true,
            "'abc' LIKE 'a.c'" => false,
            "person('region') < 'south'" => true,
            "label('gone') IS NULL" => true,
            "label('level') IS NULL" => false,
            "label('level') IS NOT NULL" => true,
            "person('lacking') IS NULL" => true,
            "person('lacking') IS NOT NULL" => false,
            "(label('gone') = 'x') IS NULL" => true,
            "(label('level') = 3) IS TRUE" => true,
            "(label('level') = 4) IS FALSE" => true,
            "(label('gone') = 'x') IS NOT TRUE" => true,
            "label('gone') = label('gone')" => false,
            "label('gone') <> 'x'" => false,
            "NOT label('gone') = 'x'" => false,
            "label('gone') LIKE '%'" => false,
            "label('gone') IN ('x')" => false,
            "label('gone') NOT IN ('x')" => false,
            "person('lacking') = 'x'" => true,
            "person('lacking') <> 'x'" => true,
            "NOT person('lacking') = 'x'" => true,
            "person('lacking') LIKE 'x'" => true,
            "person('lacking') IN ('x', 'y')" => true,
            "person('lacking') NOT IN ('x')" => true,
            "person('lacking') BETWEEN 1 AND 2" => true,
            "person('lacking') AND TRUE" => true,
            "person('lacking') = label('gone')" => false,
            "person('lacking') = 'x' AND labelled('gone')" => false,
            "person('lacking') = 'x' AND label('gone') = 'x'" => false,
            "person('lacking') = 'x' OR label('gone') = 'x'" => true,
        ];
        foreach ($cases as $text => $holds) {
            yield $text => [$text, $holds];
        }
    }

    #[DataProvider('conditions')]
    public function test_a_condition_holds_or_not(string $text, bool $holds): void
    {
        self::assertSame(
            $holds,
            Condition::parse($text)->holds(self::LABELS, self::TABLE, self::COLUMNS, self::PERSON, ['keeper' => null, 'outer' => 'keeper']),
        );
    }

    public function test_a_role_counts_whether_it_is_held_directly_or_through_another(): void
    {
        $roles = ['keeper' => null, 'outer' => 'keeper'];
        foreach (['keeper' => true, 'outer' => true, 'inner' => false] as $role => $is) {
            self::assertSame($is, Condition::parse("has_role('{$role}')")->holds([], [], [], [], $roles), $role);
        }
        $policy = SampleAccess::policy([
            'people' => ['cy' => ['roles' => ['lead']]],
            'roles' => ['lead' => ['includes' => ['crew']]],
            'rules' => ['r' => ['scope' => 'c.people', 'for' => ['everyone'], 'when' => "has_role('crew')", 'effect' => 'hide']],
        ]);
        foreach (['person:ann', 'person:cy'] as $who) {
            self::assertStringContainsString('rule r hides', SampleAccess::answer($policy, 'SELECT wage FROM people.crew', $who), $who);
        }
        $others = SampleAccess::policy([
            'rules' => ['r' => ['scope' => 'c.people', 'for' => ['everyone'], 'when' => "NOT has_role('crew')", 'effect' => 'hide']],
        ]);
        self::assertSame('SELECT wage FROM people.crew', SampleAccess::answer($others, 'SELECT wage FROM people.crew'));
    }

    /**
     * False, unknown, undecided, true: AND is the least of two in this order, OR the greatest.
     */
    public function test_the_four_truths_are_a_chain(): void
    {
        $leaves = ['FALSE', "label('gone') = 'x'", "person('lacking') = 'x'", 'TRUE'];
        $random = new Randomizer(new Mt19937(7));
        $make = static function (int $depth) use (&$make, $random, $leaves): array {
            $kind = $depth === 0 ? 0 : $random->getInt(0, 3);
            if ($kind === 0) {
                $rank = $random->getInt(0, 3);

                return ["({$leaves[$rank]})", $rank];
            }
            [$left, $a] = $make($depth - 1);
            if ($kind === 3) {
                // Only what is known has an opposite.
                return ["(NOT {$left})", $a === 0 || $a === 3 ? 3 - $a : $a];
            }
            [$right, $b] = $make($depth - 1);

            return $kind === 1 ? ["({$left} AND {$right})", min($a, $b)] : ["({$left} OR {$right})", max($a, $b)];
        };
        $seen = [];
        for ($i = 0; $i < 600; $i++) {
            [$text, $rank] = $make(4);
            $holds = static fn (string $condition): bool => Condition::parse($condition)->holds([], [], [], [], []);
            self::assertSame($rank >= 2, $holds($text), "{$text} holds where it is true or undecided");
            self::assertSame($rank === 3, $holds("{$text} IS TRUE"), $text);
            self::assertSame($rank === 0, $holds("{$text} IS FALSE"), $text);
            self::assertSame($rank === 1, $holds("{$text} IS NULL"), $text);
            $seen[$rank] = ($seen[$rank] ?? 0) + 1;
        }
        self::assertGreaterThan(40, min($seen));
        self::assertCount(4, $seen);
    }

    public function test_who_lacks_an_attribute_is_as_restricted_as_somebody_who_has_some_value(): void
    {
        $random = new Randomizer(new Mt19937(11));
        $values = ['a', 'b', 'c'];
        $leaf = static fn (): string => match ($random->getInt(0, 3)) {
            0 => "person('team') = '{$values[$random->getInt(0, 2)]}'",
            1 => "person('team') <> '{$values[$random->getInt(0, 2)]}'",
            2 => "person('team') IN ('{$values[$random->getInt(0, 2)]}', 'c')",
            default => $random->getInt(0, 1) === 0 ? "labelled('pay')" : "labelled('gone')",
        };
        for ($i = 0; $i < 300; $i++) {
            $text = "{$leaf()} ".($random->getInt(0, 1) === 0 ? 'AND' : 'OR')." NOT ({$leaf()} AND {$leaf()})";
            $condition = Condition::parse($text);
            $holds = static fn (array $person): bool => $condition->holds(['pay' => 'x'], [], [], $person, []);
            $some = array_filter([...$values, 'other'], static fn (string $team): bool => $holds(['team' => $team])) !== [];
            self::assertTrue(! $some || $holds([]), "{$text}: a rule that holds for somebody holds for who has no team");
        }
    }

    /**
     * @return iterable<string, array{string, string}> condition, part of the message
     */
    public static function mistakes(): iterable
    {
        yield 'a name alone' => ['phone = 1', "phone is no label and no attribute; write label('phone') or person('phone')."];
        yield 'a name of two parts' => ['c.phone = 1', "write label('c.phone')"];
        yield 'a function that is not there' => ["lower('x') = 'x'", 'There is no function lower in conditions; there are label, '];
        yield 'too few arguments' => ['label() = 1', "label takes one text: label('personal'): the value of that key"];
        yield 'too many arguments' => ["label('a', 'b') = 1", 'label takes one text'];
        yield 'one of two arguments' => ["person_has('a')", 'person_has takes 2 texts'];
        yield 'a number as key' => ['label(3) = 1', 'label takes texts in quotes'];
        yield 'a key that is worked out' => ["label(label('a')) = 1", 'label takes texts in quotes'];
        yield 'an operator of numbers' => ["label('a') + 1 = 2", 'The operator + cannot be used in conditions; there are AND OR = <>'];
        yield 'a value alone' => ["label('a')", 'This is a value and not a condition; compare it with something.'];
        yield 'a text alone' => ["'a'", 'This is a value and not a condition'];
        yield 'a number alone' => ['3', 'This is a value and not a condition'];
        yield 'an attribute alone is one where it is a value' => ["person('a')", 'This is a value and not a condition'];
        yield 'a query' => ['EXISTS (SELECT 1)', 'Only comparisons of labels, attributes, texts and numbers'];
        yield 'a case' => ['CASE WHEN TRUE THEN TRUE END', 'Only comparisons of labels'];
        yield 'no end' => ["label('a') =", 'line 1'];
    }

    #[DataProvider('mistakes')]
    public function test_what_cannot_be_a_condition_is_said_when_it_is_read(string $text, string $message): void
    {
        $this->expectException(ConditionError::class);
        $this->expectExceptionMessageMatches('~'.preg_quote($message, '~').'~i');
        Condition::parse($text);
    }

    /**
     * @return iterable<string, array{string, string}>
     */
    public static function failures(): iterable
    {
        yield 'a text and a number' => [
            "label('personal/phone') > 3",
            '"direct" and "3" cannot be compared: one is a number, the other is none.',
        ];
        yield 'true and a number' => ["person('active') = 1", '"true" and "1" cannot be compared'];
        yield 'a list' => ["person('teams') = 'lab'", 'A list cannot be compared by =; use person_has(...) or IN (...).'];
        yield 'a list on the right' => ["'lab' <= person('teams')", 'A list cannot be compared by <='];
        yield 'a list of texts and numbers' => ["'lab' IN (person('teams'))", '"lab" and "4" cannot be compared'];
        yield 'a list and a pattern' => ["person('teams') LIKE 'l%'", 'LIKE compares one text with one pattern, and here is a list.'];
        yield 'a text as truth' => ["label('personal/phone') AND TRUE", '"direct" is neither true nor false.'];
        yield 'a list as truth' => ["person('teams') OR FALSE", 'A list is neither true nor false.'];
        yield 'the sign of a text' => ["-label('personal/phone') > 1", 'The sign - needs a number behind it.'];
    }

    #[DataProvider('failures')]
    public function test_what_cannot_be_compared_is_an_error_and_no_answer(string $text, string $message): void
    {
        $this->expectException(ConditionError::class);
        $this->expectExceptionMessage($message);
        Condition::parse($text)->holds(self::LABELS, self::TABLE, self::COLUMNS, self::PERSON, []);
    }

    public function test_a_condition_says_what_it_asks_for(): void
    {
        $condition = Condition::parse(
            "label('pay') = person('pay') AND (table_labelled('domain') OR person_has('team', 'lab')) AND label('pay') <> 'x'",
        );
        self::assertSame(['pay', 'domain'], $condition->keys());
        self::assertSame(['pay', 'team'], $condition->attributes());
        foreach (['table_label', 'table_labelled', 'table_labelled_below', 'column_labelled_below'] as $function) {
            $text = "{$function}('a')".($function === 'table_label' ? " = 'x'" : '');
            self::assertTrue(Condition::parse($text)->asksTable(), $function);
            self::assertTrue(Condition::parse($text)->ignoresPeople(), $function);
        }
        foreach (["label('a') = 'x'", "labelled('a')", "labelled_below('a')", 'TRUE', ''] as $text) {
            self::assertFalse(Condition::parse($text)->asksTable(), $text);
            self::assertTrue(Condition::parse($text)->ignoresPeople(), $text);
        }
        foreach (["person('a') = 'x'", "person_has('a', 'x')", "has_role('x')"] as $text) {
            self::assertFalse(Condition::parse($text)->ignoresPeople(), $text);
            self::assertFalse(Condition::parse($text)->asksTable(), $text);
            self::assertSame([], Condition::parse($text)->keys(), $text);
        }
        self::assertSame([], Condition::parse("has_role('x')")->attributes());
        self::assertSame("labelled('a')", Condition::parse("labelled('a')")->text);
    }
}
