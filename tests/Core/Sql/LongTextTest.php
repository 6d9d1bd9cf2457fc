<?php

declare(strict_types=1);

namespace Tests\Core\Sql;

use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Sql\LongText;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\ExecutionReader;
use Fulcrion\Core\Telemetry\Rejection;
use PHPUnit\Framework\TestCase;

final class LongTextTest extends TestCase
{
    public function test_a_long_statement_is_the_one_its_short_form_is(): void
    {
        $fingerprinter = new Fingerprinter(Dialect::Ansi);
        foreach (
            [
                'rows' => ['INSERT INTO t (a, b, c) VALUES ', "(1, 'it''s', 2.5), ", "(1, 'x', NULL)", 30_000],
                'members' => ['SELECT a FROM t WHERE b IN (', "'a''b', ", "'x') AND c = 5", 60_000],
                'numbers' => ['DELETE FROM t WHERE b IN (', '-12, ', '7)', 100_000],
                'parameters' => ['SELECT a FROM t WHERE b IN (', '?, ', '?)', 100_000],
            ] as $name => [$before, $one, $after, $count]
        ) {
            $long = $before.str_repeat($one, $count).$after;
            self::assertGreaterThan(LongText::FROM, strlen($long));
            self::assertSame($fingerprinter->of($before.str_repeat($one, 30).$after)->id, $fingerprinter->of($long)->id, $name);
            self::assertLessThan(4096, strlen(LongText::shortened($long)));
        }
    }

    public function test_what_is_no_list_stays(): void
    {
        $words =
            'SELECT '.
            implode(', ', array_map(static fn (int $i): string => "column_{$i} + {$i}", range(1, 6000))).
            ' FROM t WHERE x = 1 AND y IN (1, 2, 3)';
        self::assertSame($words, LongText::shortened($words));
        self::assertSame(
            'SELECT (1, 2), (3, 4), (5, 6)',
            LongText::shortened('SELECT (1, 2), (3, 4), (5, 6)'),
            'short ones are not looked at',
        );
    }

    public function test_a_text_that_is_long_without_its_lists_is_set_aside(): void
    {
        $read = static fn (string $sql): Execution|Rejection => (new ExecutionReader(2_000_000_000_000_000))->record([
            'started_at' => 1_795_000_000,
            'duration_us' => 1,
            'sql' => $sql,
        ]);
        self::assertInstanceOf(Execution::class, $read('INSERT INTO t VALUES '.str_repeat("(1, 'a'), ", 300_000).'(2, NULL)'));
        $words = $read(str_repeat('a b ', 70_000));
        self::assertInstanceOf(Rejection::class, $words);
        self::assertSame('is longer than 256 KiB, its lists of values not counted', $words->reason);
    }
}
