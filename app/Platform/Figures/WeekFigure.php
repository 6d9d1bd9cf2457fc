<?php

declare(strict_types=1);

namespace App\Platform\Figures;

use Fulcrion\Core\Text\Quantity;

/**
 * Seven days by twenty-four hours, one hue from sand to umber.
 */
final readonly class WeekFigure
{
    private const DAYS = [1 => 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

    /**
     * @param  array<int, array<int, int>>  $week weekday 1 to 7 => hour => executions
     */
    public static function draw(string $id, array $week): Figure
    {
        $most = max(1, ...array_map(static fn (array $hours): int => max([0, ...$hours]), $week));
        $svg =
            '<svg class="figure-svg" viewBox="0 0 560 170" role="img" aria-labelledby="'.
            $id.
            '-title"><title id="'.
            $id.
            '-title">When in the week it runs</title>';
        $rows = [];
        foreach ($week as $day => $hours) {
            $y = 4 + ($day - 1) * 20;
            $svg .= '<text class="tick" x="36" y="'.($y + 13).'" text-anchor="end">'.substr(self::DAYS[$day], 0, 3).'</text>';
            foreach ($hours as $hour => $count) {
                $tone = $count === 0 ? 0 : 1 + (int) floor((5 * ($count - 1)) / $most);
                $svg .=
                    '<rect class="heat h'.
                    $tone.
                    '" x="'.
                    (42 + $hour * 21).
                    '" y="'.
                    $y.
                    '" width="20" height="19"><title>'.
                    self::DAYS[$day].
                    ' '.
                    sprintf('%02d:00', $hour).
                    ': '.
                    Quantity::count($count).
                    ' executions</title></rect>';
            }
            $rows[] = [self::DAYS[$day], ...array_map(static fn (int $count): string => Quantity::count($count), $hours)];
        }
        foreach ([0, 6, 12, 18] as $hour) {
            $svg .= '<text class="tick" x="'.(42 + $hour * 21).'" y="160">'.sprintf('%02d:00', $hour).'</text>';
        }

        return new Figure(
            $svg.'</svg>',
            '',
            'Executions by weekday and hour in your time zone; the darkest cell is '.Quantity::count($most).'.',
            ['day', ...array_map(static fn (int $hour): string => sprintf('%02d', $hour), range(0, 23))],
            $rows,
        );
    }
}
