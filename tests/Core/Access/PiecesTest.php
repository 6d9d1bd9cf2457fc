<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Decide\ColumnAccess;
use Fulcrion\Core\Access\Decide\Masking;
use Fulcrion\Core\Access\Decide\RoleClosure;
use Fulcrion\Core\Access\Decide\Sight;
use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\MaskKind;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Printer;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * Masks as SQL, circles among roles, and the words of a decision.
 */
final class PiecesTest extends TestCase
{
    /**
     * @param  array<string, mixed>  $fields
     */
    private static function mask(array $fields, string $name = 'm'): Item
    {
        $item = Item::of(Kind::Masks, $name, $fields);
        self::assertInstanceOf(Item::class, $item);

        return $item;
    }

    /**
     * @return iterable<string, array{array<string, mixed>, string, array<string, string>}>
     */
    public static function masks(): iterable
    {
        $none = [
            'text' => "'***'",
            'bigint' => 'CAST(NULL AS bigint)',
            'date' => 'CAST(NULL AS date)',
            'timestamp' => 'CAST(NULL AS timestamp)',
            'double' => 'CAST(NULL AS double)',
        ];
        yield 'nothing' => [['shows' => 'nothing'], 'nothing', $none];
        yield 'everything' => [['shows' => 'the whole value'], 'the whole value', array_fill_keys(array_keys($none), '"a""b"')];
        yield 'a step' => [
            ['shows' => 'rounded', 'step' => '100'],
            'rounded to 100',
            ['bigint' => 'CAST(floor("a""b" / 100) * 100 AS bigint)', 'double' => 'CAST(floor("a""b" / 100) * 100 AS double)'] + $none,
        ];
        yield 'months' => [
            ['shows' => 'rounded', 'step' => 'month'],
            'rounded to month',
            ['date' => 'CAST(date_trunc(\'month\', "a""b") AS date)', 'timestamp' => 'CAST(date_trunc(\'month\', "a""b") AS timestamp)'] +
            $none,
        ];
        yield 'years' => [
            ['shows' => 'year only'],
            'year only',
            ['date' => 'CAST(date_trunc(\'year\', "a""b") AS date)', 'timestamp' => 'CAST(date_trunc(\'year\', "a""b") AS timestamp)'] +
            $none,
        ];
        yield 'an end' => [
            ['shows' => 'last characters', 'count' => 3],
            'last 3 characters',
            ['text' => 'CASE WHEN char_length("a""b") > 3 THEN concat(\'***\', right("a""b", 3)) ELSE \'***\' END'] + $none,
        ];
        yield 'a beginning' => [
            ['shows' => 'first characters', 'count' => 1],
            'first character',
            ['text' => 'CASE WHEN char_length("a""b") > 1 THEN concat(left("a""b", 1), \'***\') ELSE \'***\' END'] + $none,
        ];
        yield 'a text' => [['shows' => 'fixed text', 'text' => "it's"], "always \"it's\"", ['text' => "'it''s'"] + $none];
        yield 'a hash' => [
            ['shows' => 'keyed hash'],
            'keyed hash',
            ['text' => 'keyed_hash("a""b")', 'bigint' => 'keyed_hash("a""b")'] + $none,
        ];
        yield 'an expression' => [
            ['shows' => 'own expression', 'text' => "concat(left(value, 1), '-')"],
            "concat(left(value, 1), '-')",
            ['text' => 'CAST(concat(left("a""b", 1), \'-\') AS text)'] + array_fill_keys(array_keys($none), ''),
        ];
    }

    /**
     * @param  array<string, mixed>  $fields
     * @param  array<string, string>  $sql type => expression; '' where it does not matter
     */
    #[DataProvider('masks')]
    public function test_a_mask_keeps_the_type_and_shows_nothing_where_it_makes_no_sense(array $fields, string $words, array $sql): void
    {
        $mask = self::mask($fields);
        self::assertSame($words, Masking::words($mask));
        foreach (array_filter($sql, static fn (string $one): bool => $one !== '') as $type => $expected) {
            self::assertSame(
                $expected,
                (new Printer())->expression((new Masking())->of($mask, 'a"b', ColumnType::of(TypeKind::from($type)))),
                $type,
            );
        }
        $there = (new Printer(Dialect::MariaDb))->expression(
            (new Masking(Dialect::MariaDb, 'key'))->of($mask, 'a"b', ColumnType::of(TypeKind::Text)),
        );
        self::assertStringNotContainsString('"a', $there, 'names are quoted as the server quotes them');
    }

    public function test_a_hash_on_a_server_of_its_own_has_the_type_of_its_column(): void
    {
        $of = static fn (TypeKind $kind): string => (new Printer(Dialect::MariaDb))->expression(
            (new Masking(Dialect::MariaDb, 'key'))->of(self::mask(['shows' => 'keyed hash']), 'a', ColumnType::of($kind)),
        );
        self::assertStringStartsWith('left(sha2(', $of(TypeKind::Text));
        self::assertStringStartsWith('cast(conv(left(sha2(', strtolower($of(TypeKind::Bigint)));
    }

    public function test_of_two_accesses_the_stricter_holds_whatever_masks_they_have(): void
    {
        $mask = self::mask(['shows' => 'nothing']);
        $accesses = [
            new ColumnAccess(Sight::Visible),
            new ColumnAccess(Sight::Masked, $mask),
            new ColumnAccess(Sight::Masked),
            new ColumnAccess(Sight::Hidden),
            new ColumnAccess(Sight::Denied),
        ];
        foreach ($accesses as $i => $a) {
            foreach ($accesses as $j => $b) {
                self::assertSame($accesses[max($i, $j)]->sight, $a->and($b)->sight, "{$i} and {$j}");
            }
        }
        self::assertNull($accesses[3]->and($accesses[1])->mask, 'a hidden column has no mask');
    }

    public function test_the_order_of_strictness_is_that_of_the_list_and_fewer_characters_are_stricter(): void
    {
        $order = [
            ['shows' => 'the whole value'],
            ['shows' => 'rounded', 'step' => 'month'],
            ['shows' => 'rounded', 'step' => 'quarter'],
            ['shows' => 'rounded', 'step' => 'year'],
            ['shows' => 'year only'],
            ['shows' => 'without the local part of an e-mail'],
            ['shows' => 'last characters', 'count' => 4],
            ['shows' => 'last characters', 'count' => 2],
            ['shows' => 'first characters', 'count' => 3],
            ['shows' => 'first characters', 'count' => 1],
            ['shows' => 'keyed hash'],
            ['shows' => 'own expression', 'text' => 'value'],
            ['shows' => 'fixed text', 'text' => 'x'],
            ['shows' => 'nothing'],
        ];
        $masks = array_map(static fn (array $fields, int $i): Item => self::mask($fields, "m{$i}"), $order, array_keys($order));
        foreach ($masks as $i => $loose) {
            foreach (array_slice($masks, $i + 1) as $strict) {
                self::assertSame($strict, Masking::stricter($loose, $strict), "{$loose->name} and {$strict->name}");
                self::assertSame($strict, Masking::stricter($strict, $loose), "{$strict->name} and {$loose->name}");
            }
        }
        self::assertSame(count(MaskKind::cases()), count(array_unique(array_column($order, 'shows'))));
        $larger = self::mask(['shows' => 'rounded', 'step' => '1000'], 'thousands');
        self::assertSame($larger, Masking::stricter($larger, self::mask(['shows' => 'rounded', 'step' => '10'], 'tens')));
    }

    public function test_masks_that_cannot_be_are_refused_with_the_reason(): void
    {
        foreach (
            [
                [['shows' => 'own expression', 'text' => 'left(value'], ''],
                [['shows' => 'own expression', 'text' => '(SELECT 1)'], 'cannot hold a query'],
                [['shows' => 'own expression', 'text' => 'concat(value, phone)'], 'phone is not known in a mask'],
                [['shows' => 'fixed text', 'text' => ''], 'The field text is empty'],
                [['shows' => 'rounded', 'step' => 'weeks'], 'is no step'],
                [['shows' => 'rounded', 'step' => '0'], 'more than 0'],
                [['shows' => 'rounded', 'step' => '-5'], 'more than 0'],
            ] as [$fields, $why]
        ) {
            try {
                Masking::check(self::mask($fields));
                self::fail(json_encode($fields).' was taken.');
            } catch (ConditionError $error) {
                self::assertStringContainsString($why, $error->getMessage());
            }
        }
        foreach (
            [
                ['shows' => 'own expression', 'text' => 'upper(VALUE)'],
                ['shows' => 'fixed text', 'text' => 'x'],
                ['shows' => 'rounded', 'step' => '5'],
                ['shows' => 'rounded', 'step' => 'quarter'],
                ['shows' => 'rounded'],
                ['shows' => 'nothing'],
            ] as $fields
        ) {
            Masking::check(self::mask($fields));
        }
    }

    public function test_roles_are_held_by_a_path_and_circles_are_found(): void
    {
        $roles = static function (array $includes): array {
            $all = [];
            foreach ($includes as $name => $inner) {
                $item = Item::of(Kind::Roles, (string) $name, ['includes' => $inner]);
                self::assertInstanceOf(Item::class, $item);
                $all[$name] = $item;
            }

            return $all;
        };
        $held = RoleClosure::of($roles(['a' => ['b', 'c', 'gone'], 'b' => ['d'], 'c' => ['d'], 'd' => [], 'e' => []]), ['a', 'nobody']);
        self::assertSame(['a' => null, 'b' => 'a', 'c' => 'a', 'd' => 'b'], $held);
        self::assertSame(['a', 'b', 'd'], RoleClosure::path($held, 'd'));
        self::assertSame(
            [],
            RoleClosure::circle($roles(['a' => ['b', 'c'], 'b' => ['d'], 'c' => ['d'], 'd' => []])),
            'two ways to one role are no circle',
        );
        foreach (
            [['a' => ['b'], 'b' => ['a']], ['x' => [], 'a' => ['x', 'b'], 'b' => ['c'], 'c' => ['x', 'a']], ['z' => ['a'],
                'a' => ['a']]] as $circled
        ) {
            $circle = RoleClosure::circle($roles($circled));
            self::assertGreaterThan(1, count($circle));
            self::assertSame($circle[0], $circle[count($circle) - 1]);
            for ($i = 1; $i < count($circle); $i++) {
                self::assertContains($circle[$i], $circled[$circle[$i - 1]]);
            }
        }
        self::assertSame(
            ['a' => null, 'b' => 'a'],
            RoleClosure::of($roles(['a' => ['b'], 'b' => ['a']]), ['a']),
            'a circle ends where it began',
        );
    }

    public function test_a_decision_says_what_became_of_the_statement(): void
    {
        $rule = static fn (string $effect, array $more = []): array => [
            'scope' => 'c.people.crew',
            'for' => ['everyone'],
            'effect' => $effect,
        ] + $more;
        $plain = SampleAccess::policy();
        $masked = SampleAccess::policy(['rules' => ['m' => $rule('mask', ['when' => "labelled_below('personal')", 'mask' => 'last2'])]]);
        $filtered = SampleAccess::policy(['rules' => ['f' => $rule('filter', ['filter' => 'id < 9'])]]);
        $both = SampleAccess::policy([
            'rules' => [
                'm' => $rule('mask', ['when' => "labelled_below('personal')", 'mask' => 'last2']),
                'f' => $rule('filter', ['filter' => 'id < 9']),
                'h' => $rule('hide', ['when' => "labelled('pay')"]),
            ],
        ]);
        foreach (
            [
                [$plain, 'SELECT phone FROM people.crew', 'allowed', [], false],
                [$masked, 'SELECT phone FROM people.crew', 'masked', ['people.crew'], true],
                [$masked, 'SELECT name FROM people.crew', 'allowed', [], false],
                [$filtered, 'SELECT name FROM people.crew', 'trimmed', ['people.crew'], true],
                [$both, 'SELECT * FROM people.crew', 'masked and trimmed', ['people.crew'], true],
                [$both, 'SELECT wage FROM people.crew', 'refused', [], null],
                [$plain, 'SELECT tel FROM people.list', 'allowed', [], true],
                [$plain, 'SELEC 1', 'unreadable', [], null],
                [$both, 'SELECT p.id FROM field.pick AS p JOIN people.crew AS c ON c.id = p.id', 'trimmed', ['people.crew'], true],
            ] as [$policy, $sql, $outcome, $veiled, $narrowed]
        ) {
            $decision = SampleAccess::ask($policy, $sql);
            self::assertSame($outcome, $decision->outcome(), $sql);
            self::assertSame(! in_array($outcome, ['refused', 'unreadable'], true), $decision->isAllowed(), $sql);
            self::assertSame(str_contains($outcome, 'masked'), $decision->isMasked(), $sql);
            self::assertSame(str_contains($outcome, 'trimmed'), $decision->isTrimmed(), $sql);
            if ($narrowed !== null) {
                self::assertSame($narrowed, $decision->isNarrowed(), $sql);
                self::assertSame($veiled, $decision->veiled(), $sql);
            }
            self::assertSame($decision->isAllowed(), $decision->sentence() === '', $sql);
        }
    }

    public function test_one_cause_is_told_once(): void
    {
        $rule = ['scope' => 'c.people', 'for' => ['everyone'], 'effect' => 'hide'];
        $one = SampleAccess::policy(['rules' => ['shut' => $rule + ['when' => "labelled('pay') OR labelled_below('personal')"]]]);
        self::assertSame(
            'c.people.crew.wage and c.people.crew.phone are hidden for ann: rule shut hides them.',
            SampleAccess::answer($one, 'SELECT wage, phone, wage FROM people.crew WHERE wage > 1'),
        );
        $two = SampleAccess::policy([
            'rules' => ['shut' => $rule + ['when' => "labelled('pay')"], 'too' => $rule + ['when' => "labelled_below('personal')"]],
        ]);
        self::assertSame(
            'c.people.crew.wage is hidden for ann: rule shut hides it. c.people.crew.phone is hidden for ann: rule too hides it.',
            SampleAccess::answer($two, 'SELECT wage, phone FROM people.crew'),
        );
        self::assertSame(
            'No use of c.people. No grant of drop on c.people.crew or above.',
            SampleAccess::answer(SampleAccess::policy(), 'DROP TABLE people.crew', 'person:bob'),
        );
    }

    public function test_columns_of_a_view_that_cannot_be_read_are_denied_one_by_one(): void
    {
        $closed = SampleAccess::policy([
            'grants' => [
                'all' => ['effect' => 'allow', 'privileges' => ['use', 'select'], 'on' => 'c.people.list', 'to' => ['role:crew']],
                'in' => ['effect' => 'allow', 'privileges' => ['use'], 'on' => 'c.people', 'to' => ['role:crew']],
            ],
            'owners' => ['estate' => ['owner' => 'role:keeper'], 'c.people.list' => ['owner' => 'person:bob']],
        ]);
        $view = $closed->catalog->tables['c.people.list'];
        $columns = (new \Fulcrion\Core\Access\Decide\StatementDecider($closed, $closed->reader('person:ann'), 'c'))->columnsOf($view);
        self::assertSame(
            array_fill_keys(['id', 'called', 'tel', 'pay'], Sight::Denied),
            array_map(static fn ($access): Sight => $access->sight, $columns),
        );
        self::assertNotSame([], $columns['tel']->causes);
        $open = SampleAccess::policy();
        self::assertSame(
            array_fill_keys(['id', 'called', 'tel', 'pay'], Sight::Visible),
            array_map(
                static fn ($access): Sight => $access->sight,
                (new \Fulcrion\Core\Access\Decide\StatementDecider($open, $open->reader('person:ann'), 'c'))->columnsOf($view),
            ),
        );
    }
}
