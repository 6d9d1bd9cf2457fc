<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Tools\Answers\Comparison;
use Illuminate\Support\Facades\DB;

/**
 * The same queries on the practice cluster and on MariaDB, whole results compared.
 */
final class AnswersBench implements Bench
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
        $comparison = new Comparison(DB::connection()->getPdo(), $root);
        $queries = [...Comparison::written(), ...Comparison::generated(self::GENERATED)];
        $differing = 0;
        foreach ($queries as $i => [$ours, $theirs]) {
            if ($i % 100 === 0) {
                $say("query {$i} of ".count($queries));
            }
            $differing += $comparison->difference($ours, $theirs) === null ? 0 : 1;
        }
        $comparison->close();
        yield Measured::of('queries run on both', count($queries), 'queries');
        yield Measured::atMost('queries whose answers differ', $differing, 0, 'queries');
    }
}
