<?php

declare(strict_types=1);

namespace Tests\Feature;

use Fulcrion\Tools\Worlds\DamageAttack;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\TestCase;

/**
 * Damaged files of every kind. Many more are tried in the bench damage.
 */
#[Group('today')]
final class DamageTest extends TestCase
{
    public function test_whatever_is_damaged_ends_in_an_answer_of_ours(): void
    {
        $directory = sys_get_temp_dir().'/damage-test-'.getmypid();
        mkdir($directory, 0o700);
        $attack = new DamageAttack($directory);
        $attack->attack(3_000, 44_000);
        exec('rm -rf '.escapeshellarg($directory));
        self::assertSame([], array_slice($attack->uncaught, 0, 3));
        self::assertSame([], array_slice($attack->unanswered, 0, 3));
        self::assertGreaterThan(2_000, $attack->records, 'much is still read');
        self::assertGreaterThan(500, $attack->refused);
        self::assertLessThan(256 << 20, $attack->peakBytes);
    }
}
