<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Tools\Worlds\DamageAttack;

/**
 * Damaged files of every kind that is read.
 */
final class DamageBench implements Measurement
{
    private const INPUTS = 50_000;

    private const AT_ONCE = 2_000;

    public function name(): string
    {
        return 'damage';
    }

    public function run(Closure $say): iterable
    {
        $attack = Scratch::within(static function (string $directory) use ($say): DamageAttack {
            $attack = new DamageAttack($directory);
            for ($done = 0; $done < self::INPUTS; $done += self::AT_ONCE) {
                $say("input {$done} of ".self::INPUTS);
                $attack->attack(self::AT_ONCE, 7_000_000 + $done);
            }

            return $attack;
        });
        foreach (array_slice([...$attack->uncaught, ...$attack->unanswered], 0, 5) as $line) {
            $say($line);
        }
        yield BenchFigure::atLeast('damaged inputs', $attack->inputs, 50_000, 'inputs');
        yield BenchFigure::of('records taken', $attack->records, 'records');
        yield BenchFigure::of('records set aside with a reason', $attack->setAside, 'records');
        yield BenchFigure::of('inputs refused as a whole', $attack->refused, 'inputs');
        yield BenchFigure::atMost('errors that are none of ours', count($attack->uncaught), 0, 'errors');
        yield BenchFigure::atMost('texts of which a line got no answer', count($attack->unanswered), 0, 'inputs');
        yield BenchFigure::atMost('longest', $attack->longestSeconds, 2, 's');
        yield BenchFigure::atMost('most memory for one', $attack->peakBytes / 1_048_576, 256, 'MiB');
    }
}
