<?php

declare(strict_types=1);

namespace App\Health\Charts;

use App\Health\Application\ClusterLine;
use App\Health\Application\NodeMark;
use App\Platform\Figures\Svg;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Text\Quantity;

/**
 * The nodes of a cluster, each an upright mark that is filled from its foot by the use of its processors and notched at that of its disk;
 * one that is slower than its neighbours leans out of the row. What waits stands as lozenges before them, and how full the file systems are
 * is a line below.
 */
final readonly class NodesFigure
{
    private const HEIGHT = 62;

    private const BAR = 44;

    private const WIDTH = 13;

    private const APART = 21;

    private const MOST_NODES = 48;

    private const LOZENGE = 11;

    private const MOST_WAITING = 10;

    private const QUEUE = 120;

    private const LEAN = 14;

    public static function draw(ClusterLine $line): string
    {
        $nodes = array_slice($line->nodes, 0, self::MOST_NODES);
        $width = self::QUEUE + max(3, count($nodes)) * self::APART + 30;
        $svg = self::queue($line->waiting);
        foreach ($nodes as $place => $node) {
            $svg .= self::node($node, self::QUEUE + $place * self::APART + 6.0);
        }
        if (count($line->nodes) > self::MOST_NODES) {
            $svg .= self::text($width - 26, 30, '+'.(count($line->nodes) - self::MOST_NODES));
        }
        if ($line->fullness !== null) {
            $long = max(1, count($nodes)) * self::APART - 8;
            [$x, $y] = [self::QUEUE + 6, self::HEIGHT - 5];
            $full = Svg::number($long * $line->fullness);
            $svg .= "<g><path class=\"rest\" d=\"M{$x} {$y}h{$long}\"/><path class=\"full\" d=\"M{$x} {$y}h{$full}".'"/>'
                .'<title>'.Svg::escape(Quantity::percent($line->fullness).' of the file systems is used').'</title></g>';
        }
        $said = Svg::escape(self::said($line));

        return "<svg class=\"nodes-row\" width=\"{$width}\" height=\"".self::HEIGHT."\" viewBox=\"0 0 {$width} ".self::HEIGHT
            ."\" role=\"img\" aria-label=\"{$said}\">{$svg}</svg>";
    }

    private static function queue(float $waiting): string
    {
        $count = (int) round($waiting);
        $count = $waiting > 0.05 ? max(1, $count) : 0;
        $svg = '';
        for ($i = 0; $i < min(self::MOST_WAITING, $count); $i++) {
            $x = self::QUEUE - 8 - $i * self::LOZENGE;
            $svg .= "<path class=\"waits\" d=\"M{$x} 24l5 6l-5 6l-5 -6z\"/>";
        }
        if ($count > self::MOST_WAITING) {
            $svg .= self::text(4, 52, '+'.($count - self::MOST_WAITING).' waiting');
        }

        return $svg === '' ? '' : "<g>{$svg}<title>".Svg::escape(Quantity::digits($waiting).' waiting, on the mean').'</title></g>';
    }

    private static function node(NodeMark $node, float $x): string
    {
        $top = 4.0;
        $left = Svg::number($x);
        $bar = self::BAR;
        $width = self::WIDTH;
        $svg = "<rect class=\"outline\" x=\"{$left}\" y=\"{$top}\" width=\"{$width}\" height=\"{$bar}\"/>";
        if ($node->processor === null) {
            $svg .= "<path class=\"none\" d=\"M{$left} ".($top + $bar)."l{$width} -{$bar}\"/>";
        } else {
            $high = $bar * min(1.0, $node->processor);
            $svg .= "<rect class=\"use\" x=\"{$left}\" y=\"".Svg::number($top + $bar - $high)."\" width=\"{$width}\" height=\""
                .Svg::number($high).'"/>';
        }
        if ($node->disk !== null) {
            $y = Svg::number($top + $bar * (1 - min(1.0, $node->disk)));
            $svg .= '<path class="notch" d="M'.Svg::number($x - 2)." {$y}h".($width + 4).'"/>';
        }
        $lean = $node->isOdd ? ' transform="rotate('.self::LEAN.' '.Svg::number($x + $width / 2).' '.($top + $bar).')"' : '';

        return '<g class="node'.($node->isOdd ? ' odd' : '')."\"{$lean}>{$svg}<title>".Svg::escape(self::name($node)).'</title></g>';
    }

    private static function name(NodeMark $node): string
    {
        return $node->name.': '.($node->processor === null ? 'not known' : Quantity::percent($node->processor).' of its processors at work')
            .($node->disk === null ? '' : ', disk '.Quantity::percent($node->disk).' of the time')
            .($node->isOdd ? ', slower than its neighbours' : '');
    }

    private static function text(float $x, float $y, string $text): string
    {
        return '<text class="tick" x="'.Svg::number($x).'" y="'.Svg::number($y).'">'.Svg::escape($text).'</text>';
    }

    private static function said(ClusterLine $line): string
    {
        $known = Spread::known(array_map(static fn (NodeMark $one): ?float => $one->processor, $line->nodes));

        return "{$line->cluster->name}: ".count($line->nodes).' '.(count($line->nodes) === 1 ? 'node' : 'nodes')
            .($known === [] ? '' : ', the busiest '.Quantity::percent(max($known))).', '.Quantity::digits($line->waiting).' waiting';
    }
}
