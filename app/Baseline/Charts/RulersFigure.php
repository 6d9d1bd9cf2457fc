<?php

declare(strict_types=1);

namespace App\Baseline\Charts;

use App\Baseline\Application\BusiestHour;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use Fulcrion\Core\Baseline\ResourceUse;
use Fulcrion\Core\Text\Quantity;

/**
 * One ruler a resource, from nothing to what the hardware was measured to do: filled to the middle of the busiest hour, hatched to its
 * 95th percentile, of the host that used most of it; all other hosts are thin marks on it.
 */
final readonly class RulersFigure
{
    private const ROW = 58;

    private const NAMES = [BusiestHour::PROCESSORS => 'Processors', BusiestHour::DISK => 'Disks', BusiestHour::NETWORK => 'Network'];

    /**
     * @param  non-empty-list<ResourceUse>  $uses
     */
    public static function draw(array $uses): Figure
    {
        $byResource = [];
        foreach ($uses as $use) {
            $byResource[$use->resource][] = $use;
        }
        $worst = array_filter(array_map(ResourceUse::bottleneck(...), $byResource), static fn (?ResourceUse $one): bool => $one !== null);
        uasort($worst, static fn (ResourceUse $a, ResourceUse $b): int => $b->high <=> $a->high);
        $top = max([1.0, ...array_map(static fn (ResourceUse $one): float => $one->high, $worst)]) * 1.001;
        $said = implode(' ', array_map(static fn (ResourceUse $one): string => self::NAMES[$one->resource].': '
            .Quantity::percent($one->high).' on '.$one->host.'.', $worst));
        $frame = new Frame('rulers', 'What was used of what the hardware can do', $said, Axis::even(0.0, $top), Axis::even(0.0, 1.0),
            height: 30 + self::ROW * count($worst), left: 150, top: 8, beside: 90, below: 22);
        $frame->hatch('rulers-hatch', 'fan-line', 5);
        $rows = [];
        $row = 0;
        foreach ($worst as $resource => $one) {
            $y = $frame->top + self::ROW * $row++ + 18;
            $x = $frame->x(0.0);
            $frame->text($frame->left - 10, $y + 9, self::NAMES[$resource], 'tick strong', 'end');
            $frame->text($frame->left - 10, $y + 23, $one->host, 'tick', 'end');
            $frame->box('ruler', $x, $y, $frame->x(1.0) - $x, 16);
            $frame->box('ruler-high', $x, $y, $frame->x($one->high) - $x, 16, "{$one->host}: ".Quantity::percent($one->high)
                .', the 95th percentile');
            $frame->box('ruler-middle', $x, $y, $frame->x($one->middle) - $x, 16, "{$one->host}: ".Quantity::percent($one->middle)
                .', the middle');
            $frame->text($frame->x(max(1.0, $one->high)) + 8, $y + 13, Quantity::percent($one->high), 'tick strong', '');
            foreach ($byResource[$resource] as $other) {
                $at = $frame->x($other->high);
                $frame->stroke('ruler-other', $at, $y + 18, $at, $y + 26);
                $rows[] = [self::NAMES[$resource], $other->host, Quantity::percent($other->middle), Quantity::percent($other->high)];
            }
        }
        $frame->along(['0' => '0', '0.25' => '25%', '0.5' => '50%', '0.75' => '75%', '1' => '100%']);

        return $frame->figure(
            'Each ruler ends at what the baseline of its host says. Filled: the middle of the busiest hour; hatched: its 95th percentile; '
                .'of the host that used most. Marks below: the 95th percentile of each host. Reading and writing add up on a disk; of a '
                .'network the fuller way counts; processors are those at work.',
            ['resource', 'host', 'middle', '95th percentile'],
            $rows,
        );
    }
}
