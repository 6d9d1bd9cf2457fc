<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Practice\Engine;

/**
 * A question about one day of a table that holds twenty-eight, clustered by time.
 */
final class PruneBench implements Measurement
{
    private const ROWS = 280_000;

    public function name(): string
    {
        return 'prune';
    }

    public function run(Closure $say): iterable
    {
        $say('writing 28 days');
        $warehouse = PracticeTables::warehouse('prune');
        $minutes = [];
        for ($i = 0; $i < self::ROWS; $i++) {
            $minutes[] = intdiv($i * 28 * 1440, self::ROWS);
        }
        PracticeTables::table($warehouse, 'fact', ['minute' => $minutes, 'val' => range(0, self::ROWS - 1)], ['minute'], 500);
        $engine = new Engine($warehouse);
        $day = 'minute >= 14400 AND minute < 15840';
        $pruned = $engine->run("SELECT count(*), sum(val) FROM fact WHERE {$day}", PracticeTables::session(), PracticeTables::limits());
        // Wrapped in IS TRUE the filter means the same, and nothing can be skipped by it.
        $whole = $engine->run(
            "SELECT count(*), sum(val) FROM fact WHERE ({$day}) IS TRUE",
            PracticeTables::session(),
            PracticeTables::limits(),
        );
        $share = static fn (?\Fulcrion\Core\Plans\Plan $plan): float => array_sum(
            array_map(
                static fn (PlanStep $step): float => $step->kind === StepKind::Scan
                    ? (100 * ($step->reads->bytes ?? 0)) / max(1, $step->reads->bytesTotal ?? 1)
                    : 0.0,
                $plan?->steps() ?? [],
            ),
        );
        $warehouse->destroy();
        yield BenchFigure::of('bytes read without skipping', $share($whole->plan), '%');
        yield BenchFigure::atMost('bytes read for one day of 28', $share($pruned->plan), 5, '%');
        yield BenchFigure::atMost('answers that differ', $pruned->rows === $whole->rows ? 0 : 1, 0, 'answers');
    }
}
