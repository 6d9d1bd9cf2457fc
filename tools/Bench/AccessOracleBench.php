<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Tools\Worlds\AccessOracle;
use Illuminate\Support\Facades\DB;
use PDO;

/**
 * Random policies and questions, each worked out cell by cell beside the engine, whose answer MariaDB runs.
 */
final class AccessOracleBench implements Measurement
{
    private const WORLDS = 20_000;

    private const AT_ONCE = 1_000;

    public function name(): string
    {
        return 'access-oracle';
    }

    public function run(Closure $say): iterable
    {
        Scratch::use();
        $pdo = DB::connection('mariadb')->getPdo();
        $pdo->setAttribute(PDO::ATTR_STRINGIFY_FETCHES, true);
        $pdo->exec('SET NAMES utf8mb4 COLLATE utf8mb4_bin');
        $oracle = new AccessOracle($pdo, (string) DB::connection('mariadb')->getDatabaseName());
        try {
            for ($done = 0; $done < self::WORLDS; $done += self::AT_ONCE) {
                $say("world {$done} of ".self::WORLDS);
                $oracle->run(self::AT_ONCE, 1_000_000 + $done);
            }
        } finally {
            $oracle->clear();
        }
        foreach (array_slice([...$oracle->leaks, ...$oracle->withheld], 0, 5) as $line) {
            $say($line);
        }
        yield BenchFigure::atLeast('random worlds', $oracle->worlds, 20_000, 'worlds');
        yield BenchFigure::of('questions asked in them', $oracle->questions, 'questions');
        yield BenchFigure::of('of them refused', $oracle->refused, 'questions');
        yield BenchFigure::atMost('leaks', count($oracle->leaks), 0, 'cells or rows');
        yield BenchFigure::atMost('wrongly withheld', count($oracle->withheld), 0, 'cells or rows');
    }
}
