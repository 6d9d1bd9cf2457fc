<?php

declare(strict_types=1);

namespace App\Platform\Figures;

use DateTimeZone;
use JsonSerializable;

/**
 * What a chart over time is drawn from: the page draws it at the width it has, with the words and links of the drawing that came
 * with it. All labels are written here, so that no script formats a quantity.
 */
final readonly class TimePlot implements JsonSerializable
{
    /** About how many labels stand below, from a wide page to a narrow one. */
    private const DENSITIES = [9, 5, 3];

    /**
     * @param  list<int>  $starts of its intervals, in Unix seconds; each ends where the next one starts
     * @param  int  $to end of the last one
     * @param  list<array{string, list<float|int|null>}>  $series CSS class and one value for each interval; null where it is not known
     * @param  list<array{float, string}>  $up values of the axis with their labels, from 0
     * @param  list<array{int, int}>  $gaps spans of which nothing is known
     * @param  array<int, string>  $marks second => name
     */
    public function __construct(
        private bool $isStacked,
        private array $starts,
        private int $to,
        private array $series,
        private array $up,
        private int $height,
        private int $left,
        private DateTimeZone $zone,
        private array $gaps = [],
        private array $marks = [],
    ) {
    }

    /**
     * @return array<string, mixed>
     */
    public function jsonSerialize(): array
    {
        $from = $this->starts[0] ?? $this->to;
        $labels = static fn (array $times): array => array_map(null, array_keys($times), array_values($times));

        return [
            'stacked' => $this->isStacked,
            'starts' => $this->starts,
            'to' => $this->to,
            'series' => array_map(static fn (array $one): array => [
                'css' => $one[0],
                'values' => array_map(static fn (float|int|null $v): ?float => $v === null ? null : (float) sprintf('%.6g', $v), $one[1]),
            ], $this->series),
            'up' => $this->up,
            'across' => array_map(
                fn (int $about): array => $labels(Scale::times($from, $this->to, $this->zone, $about)),
                self::DENSITIES,
            ),
            'gaps' => $this->gaps,
            'marks' => $labels($this->marks),
            'height' => $this->height,
            'left' => $this->left,
            'zone' => $this->zone->getName(),
        ];
    }
}
