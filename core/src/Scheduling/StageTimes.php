<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

use Fulcrion\Core\Statistics\Spread;

/**
 * What tasks of each stage should take for what they read: a line through time against bytes by least squares, fitted
 * again without what lies far off it. What is left over is the luck of a task.
 */
final readonly class StageTimes
{
    private const FAR = 3.0;

    /**
     * @param  list<array{fixedUs: float, usPerByte: float}>  $lines by stage
     * @param  list<float>  $expectedUs by task
     * @param  list<list<float>>  $ratios by stage: actual to expected, of tasks that ran through
     */
    private function __construct(public array $lines, public array $expectedUs, public array $ratios)
    {
    }

    public static function of(RecordedRun $run): self
    {
        $table = $run->table;
        $byStage = $run->tasksByStage();
        $lines = $ratios = [];
        $expected = $run->durationsUs === [] ? [] : array_fill(0, count($run->durationsUs), 0.0);
        foreach ($byStage as $stage => $tasks) {
            $points = [];
            $giant =
                StageSensitivity::SKEWED *
                max(1.0, Spread::median(array_map(static fn (int $task): int => max(0, $table->figures['bytes_read'][$task]), $tasks)));
            foreach ($tasks as $task) {
                if ($table->ended[$task] >= 0 && $table->figures['bytes_read'][$task] < $giant) {
                    $points[] = [max(0, $table->figures['bytes_read'][$task]), $run->durationsUs[$task] - $table->lostUs($task)];
                }
            }
            [$fixed, $per] = self::fit($points);
            $off = array_map(static fn (array $p): float => abs($p[1] - $fixed - $per * $p[0]), $points);
            $limit = self::FAR * Spread::median($off) * 1.4826;
            $near = array_values(array_filter($points, static fn (array $p): bool => abs($p[1] - $fixed - $per * $p[0]) <= $limit));
            if (count($near) >= max(3, intdiv(count($points), 2))) {
                [$fixed, $per] = self::fit($near);
            }
            $lines[$stage] = ['fixedUs' => $fixed, 'usPerByte' => $per];
            $ratios[$stage] = [];
            foreach ($tasks as $task) {
                $expected[$task] = max(1.0, $fixed + $per * max(0, $table->figures['bytes_read'][$task]));
                if ($table->figures['bytes_read'][$task] >= $giant) {
                    // No line through small tasks tells what a giant takes: memory may not hold it. What it took stands.
                    $expected[$task] = max(1.0, (float) ($run->durationsUs[$task] - $table->lostUs($task)));
                } elseif ($table->ended[$task] >= 0) {
                    $ratios[$stage][] = $run->durationsUs[$task] / $expected[$task];
                }
            }
        }

        return new self(array_values($lines), array_values($expected), array_values($ratios));
    }

    /**
     * @param  list<array{int, int}>  $points bytes and time
     * @return array{float, float} time of no bytes and of each byte
     */
    private static function fit(array $points): array
    {
        $count = count($points);
        if ($count === 0) {
            return [0.0, 0.0];
        }
        $meanX = array_sum(array_column($points, 0)) / $count;
        $meanY = array_sum(array_column($points, 1)) / $count;
        $xx = $xy = 0.0;
        foreach ($points as [$x, $y]) {
            $xx += ($x - $meanX) ** 2;
            $xy += ($x - $meanX) * ($y - $meanY);
        }
        // More bytes never take less time.
        $per = $xx > 0 ? max(0.0, $xy / $xx) : 0.0;
        if ($per * $meanX > $meanY) {
            // Nor does nothing take negative time: the line goes through the origin.
            return [0.0, $meanX > 0 ? $meanY / $meanX : 0.0];
        }

        return [$meanY - $per * $meanX, $per];
    }
}
