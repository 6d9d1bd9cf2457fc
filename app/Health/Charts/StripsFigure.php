<?php

declare(strict_types=1);

namespace App\Health\Charts;

use App\Health\Application\HostsBeside;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Scale;
use App\Platform\Figures\StackFigure;
use App\Platform\Figures\Svg;
use DateTimeZone;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Text\Quantity;

/**
 * A strip a host of how far it was from the middle of its neighbours: nothing as a line, what is usual as a band, and what lies beyond it
 * filled. All strips have one scale, of times as much.
 */
final readonly class StripsFigure
{
    private const WIDTH = 1_000;

    private const HEIGHT = 34;

    /** Strips that are drawn; all others are in the table. */
    private const MOST = 40;

    /** A strip reaches this far at least: half as much again, as a natural logarithm. */
    private const LEAST_REACH = 0.405;

    /** What is further out is cut off there: ten times. */
    private const MOST_REACH = 2.303;

    /**
     * @param  array<string, string>  $addresses of each host's own page
     * @param  list<string>  $odd hosts that are named for it
     */
    public static function draw(HostsBeside $beside, array $addresses, array $odd, DateTimeZone $zone): Figure
    {
        $reach = self::LEAST_REACH;
        foreach ($beside->differences as $list) {
            $reach = max($reach, ...array_map(static fn (?float $one): float => min(self::MOST_REACH, abs($one ?? 0.0)), $list));
        }
        $strips = '';
        foreach (array_slice($beside->differences, 0, self::MOST) as $host => $list) {
            $strips .= self::strip($beside, $host, $list, $reach, $addresses[$host] ?? '', in_array($host, $odd, true));
        }
        $rest = count($beside->differences) - self::MOST;
        if ($rest > 0) {
            $strips .= '<div class="strip rest"><span class="quiet">'.Quantity::count($rest).' more, nearer to the middle, in the table.'
                .'</span></div>';
        }
        $axis = '';
        foreach (Scale::times($beside->from, $beside->to, $zone, 7) as $at => $label) {
            $x = Svg::number(100 * ($at - $beside->from) / max(1, $beside->to - $beside->from));
            $axis .= "<svg x=\"{$x}%\" overflow=\"visible\"><path class=\"grid\" d=\"M0 0V5\"/><text class=\"tick\" y=\"17\" "
                .'text-anchor="middle">'.Svg::escape($label).'</text></svg>';
        }
        $html = "<div class=\"strips\">{$strips}<div class=\"strip axis\"><span></span><svg "
            ."class=\"figure-svg\" height=\"20\" aria-hidden=\"true\">{$axis}</svg><span></span></div></div>";

        return new Figure($html, self::summary($beside), self::how($beside, $reach), ['host', 'interval', 'of its neighbours', 'value'],
            self::rows($beside, $zone));
    }

    /**
     * @param  list<float|null>  $list
     */
    private static function strip(HostsBeside $beside, string $host, array $list, float $reach, string $address, bool $isOdd): string
    {
        $middle = self::HEIGHT / 2;
        $y = static fn (float $value): float => $middle - max(-$reach, min($reach, $value)) / $reach * ($middle - 1);
        $count = max(1, count($list));
        $x = static fn (float $place): float => $place / $count * self::WIDTH;
        $line = $beyond = $gaps = '';
        $isOpen = false;
        foreach ($list as $place => $value) {
            if ($value === null) {
                $gaps .= self::shade($x($place), $x($place + 1));
                $isOpen = false;

                continue;
            }
            $at = Svg::number($x($place + 0.5)).' '.Svg::number($y($value));
            $line .= ($isOpen ? 'L' : 'M').$at.($isOpen || ($list[$place + 1] ?? null) !== null ? '' : 'h1');
            $isOpen = true;
            $end = $value > $beside->usual[1] ? $beside->usual[1] : ($value < $beside->usual[0] ? $beside->usual[0] : null);
            if ($end !== null) {
                [$top, $foot] = [min($y($value), $y($end)), max($y($value), $y($end))];
                $beyond .= 'M'.Svg::number($x($place)).' '.Svg::number($top).'h'.Svg::number($x(1)).'v'.Svg::number($foot - $top)
                    .'h-'.Svg::number($x(1)).'z';
            }
        }
        foreach ($beside->gaps[$host] ?? [] as [$began, $ended]) {
            $along = static fn (int $at): float => max(0.0, min((float) $count, ($at - $beside->from) / $beside->step));
            $gaps .= self::shade($x($along($began)), $x($along($ended)));
        }
        $factor = $beside->factor($host);
        $said = $factor === null ? 'not known' : sprintf('× %.2f', $factor);
        [$top, $foot] = [$y($beside->usual[1]), $y($beside->usual[0])];
        $name = Svg::escape($host);
        $label = $address === '' ? "<span>{$name}</span>" : '<a href="'.Svg::escape($address)."\">{$name}</a>";

        return '<div class="strip'.($isOdd ? ' odd' : '')."\">{$label}<svg class=\"figure-svg\" viewBox=\"0 0 ".self::WIDTH.' '.self::HEIGHT
            .'" preserveAspectRatio="none" role="img" aria-label="'.Svg::escape("{$host}: {$said} the middle of its neighbours").'">'
            .'<rect class="usual" x="0" width="'.self::WIDTH.'" y="'.Svg::number($top).'" height="'.Svg::number($foot - $top).'"/>'
            ."<path class=\"gap\" d=\"{$gaps}\"/><path class=\"grid\" d=\"M0 {$middle}H".self::WIDTH.'"/><path class="beyond" '
            ."d=\"{$beyond}\"/><path class=\"line\" d=\"{$line}\"/></svg><span class=\"mono\">{$said}</span></div>";
    }

    private static function shade(float $left, float $right): string
    {
        $width = Svg::number(max(1.0, $right - $left));

        return 'M'.Svg::number($left)." 0h{$width}v".self::HEIGHT."h-{$width}z";
    }

    private static function summary(HostsBeside $beside): string
    {
        $parts = [];
        foreach (array_slice(array_keys($beside->differences), 0, 3) as $host) {
            $factor = $beside->factor($host);
            $parts[] = $factor === null ? "{$host} not known" : "{$host} ".Quantity::digits($factor).' times';
        }

        return "{$beside->measure->label()}, beside the middle of the other hosts: ".implode(', ', $parts).'.';
    }

    private static function how(HostsBeside $beside, float $reach): string
    {
        return "{$beside->measure->how()}, of each host as times the middle of all other hosts in the same interval of "
            .Quantity::duration($beside->step * 1e6).'. The band is where a host in the middle is 95 of 100 times; what lies beyond it is '
            .'filled; a strip ends at '.Quantity::digits(exp($reach)).' times as much and as little. Where too little is known '
            .'to tell, it is shaded.';
    }

    /**
     * @return list<list<string>>
     */
    private static function rows(HostsBeside $beside, DateTimeZone $zone): array
    {
        $rows = [];
        // By days a table can be read.
        $every = max(1, intdiv(86_400, $beside->step));
        foreach ($beside->differences as $host => $list) {
            foreach (array_chunk($list, $every, true) as $some) {
                $first = array_key_first($some) ?? 0;
                $known = Spread::known($some);
                $values = Spread::known(array_intersect_key($beside->values[$host], $known));
                $rows[] = [
                    $host,
                    StackFigure::when($beside->from + $first * $beside->step, count($some) * $beside->step, $zone),
                    $known === [] ? Quantity::NONE : '× '.Quantity::digits(exp(array_sum($known) / count($known))),
                    $values === [] ? Quantity::NONE : $beside->measure->format(array_sum($values) / count($values)),
                ];
            }
        }

        return $rows;
    }
}
