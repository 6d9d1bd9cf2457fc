<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Doctrine\SqlFormatter\Tokenizer;
use Fulcrion\Core\Sql\Fingerprinter;

/**
 * Normalising and fingerprinting, beside a general tokenizer written in PHP on the same texts.
 */
final class FingerprintBench implements Measurement
{
    private const TEXTS = 4_000;

    private const ROUNDS = 5;

    public function name(): string
    {
        return 'fingerprint';
    }

    public function run(Closure $say): iterable
    {
        $workload = new GeneratedLoad(600);
        $texts = array_map(static fn (int $i): string => $workload->text($i % 600), range(1, self::TEXTS));
        $tokenizer = new Tokenizer();
        $fingerprinter = new Fingerprinter();
        $remembering = new Fingerprinter();
        // Taken in turn, so that a machine that slows down slows both.
        $times = ['tokenizer' => [], 'alone' => [], 'remembering' => []];
        $run = static function (callable $work) use ($texts): float {
            $began = hrtime(true);
            foreach ($texts as $text) {
                $work($text);
            }

            return (hrtime(true) - $began) / 1e9;
        };
        for ($round = 0; $round <= self::ROUNDS; $round++) {
            $say("round {$round}");
            $times['tokenizer'][] = $run($tokenizer->tokenize(...));
            $times['alone'][] = $run($fingerprinter->compute(...));
            $times['remembering'][] = $run($remembering->of(...));
        }
        foreach ($times as &$each) {
            // The first round only warms up.
            $each = array_slice($each, 1);
            sort($each);
        }
        $median = static fn (string $name): float => $times[$name][intdiv(self::ROUNDS, 2)];
        yield BenchFigure::of('doctrine/sql-formatter tokenizer', self::TEXTS / $median('tokenizer'), 'statements/s');
        yield BenchFigure::of('fingerprint, nothing remembered', self::TEXTS / $median('alone'), 'statements/s');
        yield BenchFigure::of('fingerprint, as imports use it', self::TEXTS / $median('remembering'), 'statements/s');
        yield BenchFigure::atLeast(
            'fingerprint (nothing remembered) / tokenizer',
            $median('tokenizer') / $median('alone'),
            3,
            'times as fast',
        );
    }
}
