<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Tools\Worlds\AttackOracle;
use Fulcrion\Tools\Worlds\DerivedAttack;
use Fulcrion\Tools\Worlds\TotalsAttack;

/**
 * An attack on the policy with random statements, each answer held against what its reader may see.
 */
final class AccessAttackBench implements Measurement
{
    private const WORLDS = 2_500;

    private const DERIVED = 800;

    private const TOTALS = 4_000;

    private const AT_ONCE = 100;

    public function name(): string
    {
        return 'access-attack';
    }

    public function run(Closure $say): iterable
    {
        [$queries, $derived, $totals] = Scratch::within(static function (string $directory) use ($say): array {
            $queries = new AttackOracle($directory);
            for ($done = 0; $done < self::WORLDS; $done += self::AT_ONCE) {
                $say("queries: world {$done} of ".self::WORLDS);
                $queries->attack(self::AT_ONCE, 500_000 + $done);
            }
            $derived = new DerivedAttack($directory);
            for ($done = 0; $done < self::DERIVED; $done += self::AT_ONCE) {
                $say("derived tables: world {$done} of ".self::DERIVED);
                $derived->attack(self::AT_ONCE, 900_000 + $done);
            }
            $say('totals');
            $totals = new TotalsAttack($directory);
            $totals->attack(self::TOTALS, 11);

            return [$queries, $derived, $totals];
        });
        $leaks = [...$queries->leaks, ...$derived->leaks, ...$totals->leaks];
        foreach (array_slice([...$leaks, ...$queries->withheld, ...$totals->withheld], 0, 5) as $line) {
            $say($line);
        }
        yield BenchFigure::atLeast(
            'statements tried',
            $queries->statements + $derived->statements + $totals->statements,
            20_000,
            'statements',
        );
        yield BenchFigure::of('of them queries compared with the tables that hold only what may be seen', $queries->compared, 'statements');
        yield BenchFigure::of('questions of derived tables that were answered', $derived->answered, 'statements');
        yield BenchFigure::of('totals added up beside', $totals->allowed, 'statements');
        yield BenchFigure::atMost('leaks', count($leaks), 0, 'statements');
        yield BenchFigure::atMost(
            'withheld beyond what is documented',
            count($queries->withheld) + count($totals->withheld),
            0,
            'statements',
        );
    }
}
