<?php

declare(strict_types=1);

namespace Tests\Feature;

use Fulcrion\Tools\Worlds\AccessOracle;
use Illuminate\Support\Facades\DB;
use PDO;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * The decision engine beside worlds worked out cell by cell. Many more are asked in the bench access-oracle.
 */
#[Group('today')]
final class OracleTest extends TestCase
{
    public function test_nothing_leaks_and_nothing_is_withheld(): void
    {
        $pdo = DB::connection()->getPdo();
        $pdo->setAttribute(PDO::ATTR_STRINGIFY_FETCHES, true);
        $pdo->exec('SET NAMES utf8mb4 COLLATE utf8mb4_bin');
        $oracle = new AccessOracle($pdo, (string) DB::connection()->getDatabaseName());
        try {
            $oracle->run(800, 46_000);
        } finally {
            $oracle->clear();
        }
        self::assertSame([], $oracle->leaks);
        self::assertSame([], $oracle->withheld);
        self::assertGreaterThan(500, $oracle->refused);
        self::assertGreaterThan(500, $oracle->questions - $oracle->refused);
    }
}
