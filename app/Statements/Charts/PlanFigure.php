<?php

declare(strict_types=1);

namespace App\Statements\Charts;

use App\Platform\Figures\Svg;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Text\Quantity;

/**
 * The way of the rows from the tables on the left to the result on the right. A path is as wide as its rows are many
 * (on a log scale), a step as dark as its share of the time, and where an estimate was wrong the path that was expected
 * is drawn dashed around or inside the real one.
 */
final class PlanFigure
{
    private const WIDTH = 1180;

    private const LEAST_COLUMN = 132;

    private const ROW = 84;

    private const GATE_WIDTH = 15;

    private const MARGIN = 80;

    private const TOP = 26;

    private const WIDEST = 46.0;

    /** @var array<int, array{float, float, float}> step number => x, y, half height */
    private array $places = [];

    /** @var list<PlanStep> */
    private array $steps = [];

    private int $lanes = 0;

    private int $depth = 0;

    private float $column = 0.0;

    private readonly float $mostRows;

    private readonly int $sumUs;

    public function __construct(private readonly Plan $plan, private readonly string $base = '')
    {
        $rows = [1.0];
        $sum = 0;
        foreach ($plan->steps() as $step) {
            $rows[] = max($step->rows->actual ?? 0, $step->rows->estimated ?? 0, $step->rows->in ?? 0);
            $sum += $step->cost->ownUs ?? 0;
        }
        $this->mostRows = max($rows);
        $this->sumUs = $sum;
    }

    public function svg(): string
    {
        $this->depth = $this->depthOf($this->plan->root);
        $width = max(self::WIDTH, 2 * self::MARGIN + ($this->depth - 1) * self::LEAST_COLUMN);
        $this->column = ($width - 2 * self::MARGIN) / max(1, $this->depth - 1);
        $this->place($this->plan->root, $this->depth - 1);
        $height = self::TOP + max(1, $this->lanes) * self::ROW + 16;
        $paths = '';
        $gates = '';
        $number = 0;
        $this->draw($this->plan->root, $number, $paths, $gates);

        return "<svg class=\"figure-svg plan-svg\" xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {$width} {$height}\" "
            .'role="group" aria-label="'.
            Svg::escape($this->summary()).
            '">'.
            '<title>'.
            Svg::escape($this->summary()).
            "</title>{$paths}{$gates}</svg>";
    }

    public function summary(): string
    {
        $hottest = $this->plan->hottest();
        $count = count($this->plan->steps());

        return "Plan of {$count} steps, tables at the left, result at the right".
            ($hottest === null ? '' : "; most time goes into {$hottest->title()}");
    }

    /** Share of the plan's time, 0 to 6. */
    public static function heat(?int $ownUs, int $sumUs): int
    {
        $share = $sumUs > 0 ? ($ownUs ?? 0) / $sumUs : 0.0;

        return match (true) {
            $share < 0.01 => 0,
            $share < 0.05 => 1,
            $share < 0.12 => 2,
            $share < 0.25 => 3,
            $share < 0.45 => 4,
            $share < 0.7 => 5,
            default => 6,
        };
    }

    private function depthOf(PlanStep $step): int
    {
        return 1 + ($step->inputs === [] ? 0 : max(array_map($this->depthOf(...), $step->inputs)));
    }

    /** Gives every step a column by its distance from the result and a lane; returns the lane's middle. */
    private function place(PlanStep $step, int $column): float
    {
        $number = count($this->steps);
        $this->steps[] = $step;
        $this->places[$number] = [0.0, 0.0, 0.0];
        $middles = [];
        foreach ($step->inputs as $input) {
            $middles[] = $this->place($input, $column - 1);
        }
        $y = $middles === [] ? self::TOP + ($this->lanes++ + 0.5) * self::ROW : ($middles[0] + $middles[count($middles) - 1]) / 2;
        $half = max(9.0, $this->wide(max($step->rows->actual ?? ($step->rows->estimated ?? 0), $step->rows->in ?? 0)) / 2 + 3);
        $this->places[$number] = [self::MARGIN + $column * $this->column, $y, $half];

        return $y;
    }

    private function wide(float $rows): float
    {
        return $rows <= 0 ? 1.0 : 1.5 + ((self::WIDEST - 1.5) * log(1 + $rows)) / log(1 + $this->mostRows);
    }

    private function draw(PlanStep $step, int &$number, string &$paths, string &$gates): void
    {
        $own = $number;
        [$x, $y, $half] = $this->places[$own];
        $next = $own;
        foreach ($step->inputs as $input) {
            $number++;
            $next = $number;
            $paths .= $this->path($input, $this->places[$next], $this->places[$own], count($step->inputs));
            $this->draw($input, $number, $paths, $gates);
        }
        $gates .= $this->gate($step, $own, $x, $y, $half);
    }

    /**
     * @param  array{float, float, float}  $from
     * @param  array{float, float, float}  $to
     */
    private function path(PlanStep $input, array $from, array $to, int $siblings): string
    {
        [$x1, $y1] = [$from[0] + self::GATE_WIDTH, $from[1]];
        [$x2, $y2] = [$to[0], $siblings === 1 ? $to[1] : $to[1] + max(-1, min(1, ($from[1] - $to[1]) / self::ROW)) * $to[2] * 0.6];
        $middle = ($x1 + $x2) / 2;
        $rows = $input->rows->actual ?? ($input->rows->estimated ?? 0);
        $actual = $this->wide($rows) / 2;
        $title =
            $input->rows->actual === null
                ? Quantity::count((int) $rows).' rows expected'
                : Quantity::count((int) $rows).
                    ' rows'.
                    ($input->rows->estimated === null ? '' : ', '.Quantity::count((int) $input->rows->estimated).' expected');
        $drawn =
            '<path class="'.
            ($input->rows->actual === null ? 'flow guessed' : 'flow').
            '" d="'.
            $this->band($x1, $y1, $x2, $y2, $middle, $actual).
            '"><title>'.
            Svg::escape($title).
            '</title></path>';
        if ($input->rows->actual !== null && $input->rows->estimated !== null) {
            $off = ($input->errorFactor() ?? 1) > 10;
            $expected = $this->wide($input->rows->estimated * max(1, $input->rows->loops)) / 2;
            if (abs($expected - $actual) > 1.5) {
                foreach ([-1, 1] as $side) {
                    $drawn .=
                        '<path class="expected'.
                        ($off ? ' off' : '').
                        '" d="M'.
                        Svg::number($x1).
                        ' '.
                        Svg::number($y1 + $side * $expected).
                        'C'.
                        Svg::number($middle).
                        ' '.
                        Svg::number($y1 + $side * $expected).
                        ' '.
                        Svg::number($middle).
                        ' '.
                        Svg::number($y2 + $side * $expected).
                        ' '.
                        Svg::number($x2).
                        ' '.
                        Svg::number($y2 + $side * $expected).
                        '"/>';
                }
            }
        }
        $drawn .=
            '<text class="tick" x="'.
            Svg::number($x1 + 6).
            '" y="'.
            Svg::number($y1 - max($actual, 4) - 4).
            '">'.
            Svg::escape(Quantity::short((int) round($rows))).
            '</text>';

        return $drawn;
    }

    private function band(float $x1, float $y1, float $x2, float $y2, float $middle, float $half): string
    {
        $n = Svg::number(...);

        return "M{$n($x1)} {$n($y1 - $half)}C{$n($middle)} {$n($y1 - $half)} {$n($middle)} {$n($y2 - $half)} {$n($x2)} {$n($y2 - $half)}".
            "L{$n($x2)} {$n($y2 + $half)}C{$n($middle)} {$n($y2 + $half)} {$n($middle)} {$n($y1 + $half)} {$n($x1)} {$n($y1 + $half)}Z";
    }

    private function gate(PlanStep $step, int $number, float $x, float $y, float $half): string
    {
        $share = $this->sumUs > 0 && $step->cost->ownUs !== null ? $step->cost->ownUs / $this->sumUs : null;
        $heat = self::heat($step->cost->ownUs, $this->sumUs);
        $name = $step->kind->label();
        $table = $step->table === null ? '' : (string) preg_replace('~^.*\.~', '', $step->table->name);
        $said =
            $number +
            1 .
            '. '.
            $step->title().
            ($step->detail === '' || $step->detail === $step->table?->name ? '' : ": {$step->detail}").
            ($share === null ? '' : '; '.Quantity::duration($step->cost->ownUs).', '.Quantity::percent($share).' of the time');
        $n = Svg::number(...);
        $label =
            '<text class="tick strong" text-anchor="middle" x="'.
            $n($x + self::GATE_WIDTH / 2).
            '" y="'.
            $n($y + $half + 14).
            '">'.
            Svg::escape(mb_strimwidth($table === '' ? $name : $table, 0, 24, '…')).
            '</text>';
        $second = ($table === '' ? '' : "{$name} · ").($share === null ? $number + 1 : Quantity::percent($share));
        $label .=
            '<text class="tick" text-anchor="middle" x="'.
            $n($x + self::GATE_WIDTH / 2).
            '" y="'.
            $n($y + $half + 27).
            '">'.
            Svg::escape($second).
            '</text>';

        return '<a href="'.
            $this->base.
            '#step-'.
            ($number + 1).
            '" aria-label="'.
            Svg::escape($said).
            '"><rect class="gate t'.
            $heat.
            '" x="'.
            $n($x).
            '" y="'.
            $n($y - $half).
            '" width="'.
            self::GATE_WIDTH.
            '" height="'.
            $n(2 * $half).
            '"><title>'.
            Svg::escape($said).
            '</title></rect>'.
            ($step->inputs === []
                ? '<line class="source" x1="'.
                    $n($x).
                    '" x2="'.
                    $n($x).
                    '" y1="'.
                    $n($y - $half - 4).
                    '" y2="'.
                    $n($y + $half + 4).
                    '"/>'
                : '').
            $label.
            '</a>';
    }
}
