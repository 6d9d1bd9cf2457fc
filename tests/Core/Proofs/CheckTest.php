<?php

declare(strict_types=1);

namespace Tests\Core\Proofs;

use Fulcrion\Core\Proofs\Check;
use PHPUnit\Framework\TestCase;

final class CheckTest extends TestCase
{
    public function test_a_line_holds_where_what_was_read_is_what_is_expected(): void
    {
        self::assertSame(['what' => 'a', 'expected' => '1', 'got' => '1', 'holds' => true], Check::line('a', '1', '1'));
        self::assertFalse(Check::line('a', '1', '01')['holds'], 'numbers are held against each other as they are written');
    }

    public function test_what_is_not_known_never_holds(): void
    {
        self::assertSame(['what' => 'a', 'expected' => 'not known', 'got' => 'not known', 'holds' => false],
            Check::line('a', 'not known', null));
    }

    public function test_those_that_hold_are_counted(): void
    {
        self::assertSame(0, Check::held([]));
        self::assertSame(2, Check::held([Check::line('a', '1', '1'), Check::line('b', '1', null), Check::line('c', '', '')]));
    }
}
