<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Tools\Worlds\AttackOracle;
use Fulcrion\Tools\Worlds\DerivedAttack;
use Fulcrion\Tools\Worlds\TotalsAttack;
use PHPUnit\Framework\TestCase;

/**
 * An attack on the policy. Many more statements are tried in the bench access-attack.
 */
final class RedTeamTest extends TestCase
{
    private string $directory;

    protected function setUp(): void
    {
        $this->directory = sys_get_temp_dir().'/red-team-'.getmypid();
        mkdir($this->directory, 0o700);
    }

    protected function tearDown(): void
    {
        exec('rm -rf '.escapeshellarg($this->directory));
    }

    public function test_queries_show_what_tables_would_that_hold_only_what_may_be_seen(): void
    {
        $oracle = new AttackOracle($this->directory);
        $oracle->attack(250, 60_000);
        self::assertSame([], array_slice($oracle->leaks, 0, 3));
        self::assertSame([], array_slice($oracle->withheld, 0, 3));
        self::assertGreaterThan(800, $oracle->compared, 'most of what is allowed was compared');
        self::assertGreaterThan(400, $oracle->refused);
    }

    public function test_what_is_derived_shows_no_more_than_its_source(): void
    {
        $attack = new DerivedAttack($this->directory);
        $attack->attack(120, 70_000);
        self::assertSame([], array_slice($attack->leaks, 0, 3));
        self::assertGreaterThan(1000, $attack->answered, 'many questions are answered, so that something could show');
    }

    public function test_whoever_sees_totals_gets_sums_of_enough_rows_and_nothing_else(): void
    {
        $attack = new TotalsAttack($this->directory);
        $attack->attack(1200, 3);
        self::assertSame([], array_slice($attack->leaks, 0, 3));
        self::assertSame([], array_slice($attack->withheld, 0, 3));
        self::assertGreaterThan(80, $attack->allowed);
    }
}
