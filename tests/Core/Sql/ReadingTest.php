<?php

declare(strict_types=1);

namespace Tests\Core\Sql;

use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Reading;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class ReadingTest extends TestCase
{
    #[TestWith(["INSERT INTO field.pick VALUES (1, 'a;b?')", 'field.pick'])]
    #[TestWith(["insert into Field.Pick (bay, grade) values (1, 'A'), (2, 'B')", 'field.pick'])]
    #[TestWith(['INSERT INTO pick VALUES (1)', 'people.pick'])]
    #[TestWith(['INSERT INTO field.pick SELECT * FROM field.other', null])]
    #[TestWith(['SELECT * FROM field.pick', null])]
    #[TestWith(['DELETE FROM field.pick WHERE bay = 1', null])]
    public function test_where_given_rows_go_is_read(string $sql, ?string $table): void
    {
        self::assertSame($table, Reading::insertsInto($sql, 'people'));
    }

    public function test_given_rows_go_into_another_table_and_nothing_else_changes(): void
    {
        self::assertSame(
            "INSERT INTO copies.as_it_is (bay, grade) VALUES (1, 'field.pick'), (-2, NULL)",
            Reading::into("INSERT INTO field.pick (bay, grade) VALUES (1, 'field.pick'), (-2, NULL)", 'copies.as_it_is'),
        );
        self::assertSame(
            'copies.as_it_is',
            Reading::insertsInto(Reading::into('INSERT INTO `field`.`pick` VALUES (1)', 'copies.as_it_is', Dialect::MariaDb)),
        );
        self::assertSame('SELECT 1 FROM field.pick', Reading::into('SELECT 1 FROM field.pick', 'copies.as_it_is'));
    }
}
