<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Tools\Worlds\ExpressionAttack;

/**
 * Random expressions and the code made of them.
 */
final class ExpressionsBench implements Measurement
{
    private const EXPRESSIONS = 100_000;

    private const AT_ONCE = 5_000;

    public function name(): string
    {
        return 'expressions';
    }

    public function run(Closure $say): iterable
    {
        $attack = Scratch::within(static function (string $directory) use ($say): ExpressionAttack {
            $attack = new ExpressionAttack($directory);
            for ($done = 0; $done < self::EXPRESSIONS; $done += self::AT_ONCE) {
                $say("expression {$done} of ".self::EXPRESSIONS);
                $attack->attack(self::AT_ONCE, 3_000_000 + $done);
            }

            return $attack;
        });
        foreach (array_slice([...$attack->uncaught, ...$attack->differing], 0, 5) as $line) {
            $say($line);
        }
        yield BenchFigure::atLeast('expressions', self::EXPRESSIONS, 100_000, 'expressions');
        yield BenchFigure::of('statements answered', $attack->answered, 'statements');
        yield BenchFigure::of('statements refused', $attack->refused, 'statements');
        yield BenchFigure::of('values compared with those of the expression written out', $attack->compared, 'values');
        yield BenchFigure::atMost('errors of PHP', count($attack->uncaught), 0, 'errors');
        yield BenchFigure::atMost('values that differ', count($attack->differing), 0, 'values');
    }
}
