<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Policy\Condition;
use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\FormerConditions;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class FormerConditionsTest extends TestCase
{
    /**
     * @return list<array{string, string, list<bool>}> as it was written, as it is written, whether it holds for each of OBJECTS
     */
    public static function conditions(): array
    {
        return [
            ["has_label('pay')", "labelled('pay')", [false, true, true, false]],
            ["has_label('pay', 'secret')", "(labelled('pay') AND label('pay') = 'secret')", [false, true, false, false]],
            ["NOT has_label('pay', 'secret')", "NOT (labelled('pay') AND label('pay') = 'secret')", [true, false, true, true]],
            ["HAS_BELOW( 'personal' )", "labelled_below( 'personal' )", [false, false, false, true]],
            [
                "NOT has_below('personal') OR has_label('pay')",
                "NOT labelled_below('personal') OR labelled('pay')",
                [true, true, true, false],
            ],
            [
                "table_has('retired') AND any_column('personal')",
                "table_labelled('retired') AND column_labelled_below('personal')",
                [false, false, false, true],
            ],
            ["table_has_below('domain')", "table_labelled_below('domain')", [false, false, true, false]],
            ["label('pay') = 'has_label(''x'')'", "label('pay') = 'has_label(''x'')'", [false, false, false, false]],
            ['', '', [true, true, true, true]],
        ];
    }

    /** Labels of a column, of its table, keys on any column of the table. */
    private const OBJECTS = [
        [[], [], []],
        [['pay' => 'secret'], [], ['pay' => true]],
        [['pay' => 'open'], ['domain/trade' => 'x'], ['pay' => true]],
        [['personal/phone' => 'full'], ['retired' => 'yes'], ['personal/phone' => true]],
    ];

    /**
     * @param  list<bool>  $truth
     */
    #[DataProvider('conditions')]
    public function test_what_was_kept_means_the_same(string $former, string $now, array $truth): void
    {
        self::assertSame($now, FormerConditions::rewritten($former));
        self::assertSame($now, FormerConditions::rewritten($now));
        $condition = Condition::parse($now);
        self::assertSame(
            $truth,
            array_map(static fn (array $object): bool => $condition->holds($object[0], $object[1], $object[2], [], []), self::OBJECTS),
        );
    }

    public function test_a_former_name_is_refused_with_the_one_of_today(): void
    {
        foreach (FormerConditions::NAMES as $former => $name) {
            try {
                Condition::parse("{$former}('personal')");
                self::fail("{$former} was read.");
            } catch (ConditionError $error) {
                self::assertStringStartsWith("{$former} is now written {$name}: {$name}('", $error->getMessage());
            }
        }
        $this->expectExceptionMessage("labelled takes one text: labelled('personal'): whether it carries that very key.");
        Condition::parse("labelled('pay', 'secret')");
    }
}
