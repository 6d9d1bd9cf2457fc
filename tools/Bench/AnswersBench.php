<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Tools\Answers\AnswerComparison;
use Illuminate\Support\Facades\DB;

/**
 * The same queries on the practice cluster and on MariaDB, whole results compared.
 */
final class AnswersBench implements Measurement
{
    private const GENERATED = 2000;

    public function name(): string
    {
        return 'answers';
    }

    public function run(Closure $say): iterable
    {
        Scratch::use();
        $root = Scratch::folder().'/practice-answers';
        $comparison = new AnswerComparison(DB::connection()->getPdo(), $root);
        $queries = [...AnswerComparison::written(), ...AnswerComparison::generated(self::GENERATED)];
        $differing = 0;
        foreach ($queries as $i => [$ours, $theirs]) {
            if ($i % 100 === 0) {
                $say("query {$i} of ".count($queries));
            }
            $differing += $comparison->difference($ours, $theirs) === null ? 0 : 1;
        }
        $comparison->close();
        yield BenchFigure::of('queries run on both', count($queries), 'queries');
        yield BenchFigure::atMost('queries whose answers differ', $differing, 0, 'queries');
    }
}
