<?php

declare(strict_types=1);

namespace App\Usage\Charts;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Telemetry\Usage\Amount;
use App\Usage\Application\WhyPage;

/**
 * What rose on the right of a line, what fell on its left, from the largest; the two totals at the foot.
 */
final readonly class PartsFigure
{
    private const ROW = 24;

    public static function draw(WhyPage $page): Figure
    {
        $measure = $page->scope->measure;
        $amount = static fn (int|float $value): string => Amount::of($measure, $value);
        [$foremost, $rest] = $page->bridge->foremost(WhyPage::SHOWN);
        $parts = [];
        foreach ($foremost as $one) {
            $parts[] = [$page->name($one->key), $one->change(), $page->deeper($one->key)];
        }
        if (count($page->bridge->changes) > count($foremost)) {
            $parts[] = [(count($page->bridge->changes) - count($foremost)).' others', $rest, null];
        }
        $most = max([1, ...array_map(static fn (array $part): int => abs($part[1]), $parts)]);
        $frame = new Frame(
            'parts',
            'What changed, part by part',
            $page->sentence().'.',
            Axis::even(-$most, $most),
            Axis::even(0.0, 1.0),
            height: count($parts) * self::ROW + 3 * self::ROW + 10,
            left: 330,
            top: 6,
            beside: 110,
            links: true,
        );
        $zero = $frame->x(0.0);
        $frame->stroke('grid', $zero, 4, $zero, 8 + count($parts) * self::ROW);
        $rows = [];
        foreach ($parts as $i => [$name, $change, $href]) {
            $y = 8 + $i * self::ROW;
            $frame->text($frame->left - 10, $y + 14, mb_strimwidth($name, 0, 46, '…'), 'tick', 'end');
            $x = $frame->x((float) $change);
            $said = Amount::change($measure, $change);
            $bar = 'bar '.($change > 0 ? 's2' : 's1');
            $frame->box($bar, min($zero, $x), $y + 2, max(1.0, abs($x - $zero)), self::ROW - 8, "{$name}: {$said}", $href);
            $frame->text($change > 0 ? $x + 6 : $x - 6, $y + 14, $said, 'tick strong', $change > 0 ? '' : 'end');
            $rows[] = [$name, $said];
        }
        $foot = 8 + count($parts) * self::ROW + 6;
        $frame->stroke('grid', $frame->left, $foot, $frame->right, $foot);
        $totals = [['before', $page->bridge->before->amount, 'before-bar'], ['after', $page->bridge->after->amount, 'after-bar']];
        $whole = max([1, $totals[0][1], $totals[1][1]]);
        foreach ($totals as $i => [$name, $value, $class]) {
            $y = $foot + 6 + $i * self::ROW;
            $width = ($frame->right - $frame->left) * $value / $whole;
            $frame->text($frame->left - 10, $y + 13, $name, 'tick strong', 'end');
            $frame->box($class, $frame->left, $y, max(1.0, $width), self::ROW - 9, "{$name}: ".$amount($value));
            $frame->text($frame->left + max(1.0, $width) + 6, $y + 13, $amount($value), 'tick strong', '');
            $rows[] = [$name, $amount($value)];
        }

        return $frame->figure(
            'Each part is what a subject used more or less; the parts together are exactly the difference of the totals at the foot.',
            ['part', 'change'],
            $rows,
        );
    }
}
