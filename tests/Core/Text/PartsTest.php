<?php

declare(strict_types=1);

namespace Tests\Core\Text;

use Fulcrion\Core\Text\Parts;
use PHPUnit\Framework\TestCase;

final class PartsTest extends TestCase
{
    public function test_what_says_something_keeps_its_order_and_a_nought_says_something(): void
    {
        self::assertSame(['b', '0', ' '], Parts::said(['b', '', null, '0', false, ' ']));
        self::assertSame([], Parts::said([]));
        self::assertSame('0', Parts::first('', null, '0', 'more'));
        self::assertSame('', Parts::first('', false));
    }

    public function test_parts_between_marks_are_trimmed_and_never_empty(): void
    {
        self::assertSame(['a b', 'c'], Parts::between(" a b ,, c ,\n"));
        self::assertSame(['a, b', 'c'], Parts::between('a, b|c', '|'));
        self::assertSame([], Parts::between(' , '));
    }

    public function test_parts_between_places_of_a_pattern(): void
    {
        self::assertSame(['a', 'b', 'c'], Parts::split('~\s+~', ' a  b c '));
        self::assertSame(['x', '%', 'y', '_'], Parts::split('~([%_])~', 'x%y_', true));
        self::assertSame(['x', 'y'], Parts::split('~([%_])~', 'x%y_'));
        // No text in UTF-8.
        self::assertSame([], Parts::split('~,~u', "a,\xFF"));
    }
}
