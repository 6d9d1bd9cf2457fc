<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;

/**
 * All that is advised on a hundred tables laid out at random is followed, and the workload is run again: what is called
 * worth it has to be.
 */
final class AdviceMeasuredBench implements Measurement
{
    private const TABLES = 100;

    private const ROWS = 20_000;

    /** From this much more time on, an advice harmed. */
    public const HARM = 1.03;

    public function name(): string
    {
        return 'advice-measured';
    }

    public function run(Closure $say): iterable
    {
        $followed = $harmed = $predicted = $saved = $before = $best = 0.0;
        $worst = 1.0;
        for ($seed = 1; $seed <= self::TABLES; $seed++) {
            $say("table {$seed} of ".self::TABLES);
            Scratch::within(static function (string $folder) use (
                $seed,
                $say,
                &$followed,
                &$harmed,
                &$predicted,
                &$saved,
                &$before,
                &$best,
                &$worst,
            ): void {
                $layout = new RandomLayout("{$folder}/table", $seed, self::ROWS);
                [$us] = $layout->measure();
                $least = $us;
                foreach ($layout->advice() as $advice) {
                    if (! $advice->worthIt || $advice->kind === 'statistics') {
                        continue;
                    }
                    $then = (float) $layout->following($advice, static fn (): float => $layout->measure()[0]);
                    $followed++;
                    $predicted += $advice->savedUs / $us;
                    $saved += 1 - $then / $us;
                    $least = min($least, $then);
                    $worst = max($worst, $then / $us);
                    if ($then > self::HARM * $us) {
                        $harmed++;
                        $say(
                            "table {$seed}: {$advice->advice}: ".
                                round($us / 1e6, 1).
                                ' s before, '.
                                round($then / 1e6, 1).
                                ' s after; '.
                                $layout->describe(),
                        );
                    }
                }
                $before += $us;
                $best += $least;
                $layout->destroy();
            });
        }
        yield BenchFigure::atLeast('pieces of advice followed', $followed, self::TABLES, 'pieces');
        yield BenchFigure::atMost('that made the workload slower by more than 3%', ($harmed / max(1.0, $followed)) * 100, 5, '%');
        yield BenchFigure::atMost('time after the worst of them', $worst, 1.25, 'times');
        yield BenchFigure::of('time saved, predicted, on average', ($predicted / max(1.0, $followed)) * 100, '%');
        yield BenchFigure::of('time saved, from what was really read and sent', ($saved / max(1.0, $followed)) * 100, '%');
        yield BenchFigure::atMost('time of all workloads with the best advice on each', $best / max(1.0, $before), 0.7, 'times');
    }
}
