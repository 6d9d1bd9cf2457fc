<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Core\Proofs\RowsDigest;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Outcome;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\Switches;
use Fulcrion\Tools\Answers\RollupWorld;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Statements at random, answered with rollups and lookups and without, while rows come, change and go.
 */
final class RollupAnswersBench implements Measurement
{
    private const QUERIES = 1000;

    public function name(): string
    {
        return 'rollup-answers';
    }

    public function run(Closure $say): iterable
    {
        $root = Scratch::folder().'/rollup-answers';
        if (is_dir($root)) {
            Warehouse::open($root)->destroy();
        }
        $warehouse = Warehouse::create($root, 'bench', 4, new HardwareProfile(2, 1_000_000, 100_000_000, 1_000_000, 1_000_000, 10));
        $engine = new Engine($warehouse);
        $plain = $engine->with(new Switches([Switches::ROLLUPS, Switches::LOOKUPS]));
        $world = new RollupWorld(new Randomizer(new Mt19937(2026)));
        $session = new Session('', 'bench', 1_774_000_000_000_000);
        $limits = PracticeTables::limits();
        $say('writing rows and rollups');
        foreach ([...$world->tables(30_000), ...$world->rollups()] as $sql) {
            $engine->run($sql, $session, $limits);
        }
        $differ = $rollups = $lookups = 0;
        $factors = [];
        for ($i = 0; $i < self::QUERIES; $i++) {
            if ($i % 100 === 0) {
                $say("statement {$i} of ".self::QUERIES);
            }
            if ($i % 10 === 9) {
                $engine->run($world->change($i), $session, $limits);
            }
            $sql = $world->query();
            $with = $engine->run($sql, $session, $limits);
            $without = $plain->run($sql, $session, $limits);
            $differ += self::digest($with) === self::digest($without) ? 0 : 1;
            $used = implode(
                ' ',
                array_filter($with->plan->remarks ?? [], static fn (string $remark): bool => str_contains($remark, 'used in place')),
            );
            $rollups += str_contains($used, 'rollup s.') ? 1 : 0;
            $lookups += str_contains($used, 'lookup s.') ? 1 : 0;
            if (str_contains($used, 'rollup s.') && $with->plan !== null && $without->plan !== null) {
                $factors[] = PlanTotals::of($without->plan)->bytesScanned / max(1, PlanTotals::of($with->plan)->bytesScanned);
            }
        }
        $warehouse->destroy();
        sort($factors);
        yield BenchFigure::of('answered from a rollup', $rollups, 'statements');
        yield BenchFigure::of('with a lookup', $lookups, 'statements');
        yield BenchFigure::of(
            'fewer bytes, median of those from a rollup',
            $factors === [] ? 1.0 : $factors[intdiv(count($factors), 2)],
            'times',
        );
        yield BenchFigure::atMost('answers that differ', $differ, 0, 'answers');
    }

    private static function digest(Outcome $outcome): string
    {
        $digest = new RowsDigest();
        foreach ($outcome->rows as $row) {
            $digest->add($row);
        }

        return $digest->text();
    }
}
