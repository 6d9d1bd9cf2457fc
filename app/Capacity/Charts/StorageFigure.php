<?php

declare(strict_types=1);

namespace App\Capacity\Charts;

use App\Capacity\Application\StoragePlace;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Finding;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use App\Platform\Figures\Svg;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Capacity\StoredPart;
use Fulcrion\Core\Text\Quantity;

/**
 * Used space as a line with its steps named, what is expected as a hatched fan to the line of capacity, the day of meeting marked. What
 * could be given back hangs below the line in a hatch of its own.
 */
final readonly class StorageFigure
{
    private const HEIGHT = 330;

    private const DAY = 86_400;

    /** The past that is drawn, at least and at most; what is ahead takes as much at most. */
    private const PAST_DAYS = [28, 60];

    private const AHEAD_DAYS = 120;

    private const MOST_NAMED = 5;

    private const ROOM = 150;

    /**
     * @param  array<int, StoredPart>  $causes by the second of their step
     * @param  list<Finding>  $spare
     */
    public static function draw(StoragePlace $place, Cluster $cluster, array $causes, array $spare, DateTimeZone $zone): Figure
    {
        $now = $place->last()->at;
        $known = intdiv($now - $place->readings[0]->at, self::DAY) + 1;
        $from = $now - max(self::PAST_DAYS[0], min(self::PAST_DAYS[1], $known)) * self::DAY;
        $ahead = min(self::AHEAD_DAYS, max(14, (int) (1.15 * ($place->forecast->latest ?? $place->forecast->days ?? 28)) + 3));
        $to = $now + $ahead * self::DAY;
        $path = array_slice($place->forecast->path ?? [], 0, $ahead);
        $limit = $place->last()->limitBytes;
        $top = max($limit * 1.06, ...array_map(static fn ($one): float => $one->usedBytes, $place->readings));
        $frame = new Frame('storage', 'Space used and expected', self::summary($place, $cluster), Axis::even((float) $from, (float) $to),
            Axis::even(0.0, $top), height: self::HEIGHT, top: 26, beside: 12, below: 26);
        $frame->hatch('storage-hatch', 'fan-line');
        $frame->hatch('storage-spare', 'spare-line', 5);
        $frame->grid(array_filter(Scale::inUnits($top), static fn (float $tick): bool => $tick <= $top), Quantity::bytes(...));
        $frame->along(Scale::times($from, $to, $zone));
        self::spare($frame, $place, $spare, $from, $now);
        $line = [];
        $last = null;
        foreach ($place->readings as $one) {
            if ($one->at >= $from) {
                // What comes in steps is drawn as such.
                if ($last !== null) {
                    $line[] = [(float) $one->at, $last];
                }
                $line[] = [(float) $one->at, $one->usedBytes];
                $last = $one->usedBytes;
            }
        }
        self::ahead($frame, $path, $now, $place->last()->usedBytes, $top);
        $frame->line('line s1', $line);
        $frame->stroke('mark', $frame->x($now), $frame->top, $frame->x($now), $frame->bottom);
        $frame->limitAcross($limit, 'capacity, '.Quantity::bytes($limit));
        self::met($frame, $place, $now, $limit, $zone, $to);
        self::steps($frame, $place, $causes, $from);

        return $frame->figure(
            'A line: what was used, by the hour. Dashes: what is used if the next weeks are like the last '.($place->forecast->weeks ?? 0)
                .', by the day of the week; hatched: where it ends in about eight of ten cases, by how much weeks differed (checked on '
                .'simulated growth). Days on which much was given back at once are not counted on. Named: steps, by what became larger on '
                .'their day.',
            ['day', 'used', 'of'],
            self::rows($place, $from, $zone),
        );
    }

    /**
     * @param  list<array{float, float, float}>  $path
     */
    private static function ahead(Frame $frame, array $path, int $now, float $used, float $top): void
    {
        if ($path === []) {
            return;
        }
        $up = $down = '';
        $middle = [[(float) $now, $used]];
        foreach ($path as $place => [$least, $most, $high]) {
            $at = (float) ($now + ($place + 1) * self::DAY);
            $x = Svg::number($frame->x($at));
            $up .= "L{$x} ".Svg::number($frame->y(min($top, max(0.0, $high))));
            $down = "L{$x} ".Svg::number($frame->y(min($top, max(0.0, $least)))).$down;
            if ($most <= $top) {
                $middle[] = [$at, max(0.0, $middle[count($middle) - 1][1])];
                $middle[] = [$at, max(0.0, $most)];
            }
        }
        $start = Svg::number($frame->x($now)).' '.Svg::number($frame->y($used));
        $frame->path('fan storage-fan', "M{$start}{$up}{$down}Z");
        $frame->line('expected', $middle);
    }

    /**
     * What could be given back, below the line of what is used.
     *
     * @param  list<Finding>  $spare
     */
    private static function spare(Frame $frame, StoragePlace $place, array $spare, int $from, int $now): void
    {
        $bytes = array_sum(array_map(static fn (Finding $one): float => $one->spare_bytes, $spare));
        if ($bytes <= 0.0) {
            return;
        }
        $used = $place->last()->usedBytes;
        $bytes = min($bytes, $used);
        $left = $frame->x($from + 0.72 * ($now - $from));
        $frame->box('spare', $left, $frame->y($used), $frame->x($now) - $left, $frame->y($used - $bytes) - $frame->y($used),
            Quantity::bytes($bytes).' could be given back');
        $frame->text($left + 6, $frame->y($used - $bytes) - 6, Quantity::bytes($bytes).' could go', 'tick strong', 'start');
    }

    private static function met(Frame $frame, StoragePlace $place, int $now, float $limit, DateTimeZone $zone, int $to): void
    {
        $days = $place->forecast?->days;
        $at = $now + ($days ?? 0) * self::DAY;
        if ($days === null || $days === 0 || $at > $to) {
            return;
        }
        $x = $frame->x($at);
        $frame->dot('dot met', $x, $frame->y($limit), 5, 'full on '.moment($at * 1_000_000, MomentStyle::Day, $zone));
        $frame->stroke('limit', $x, $frame->y($limit), $x, $frame->bottom);
        $frame->text($x, $frame->top - 10, 'full '.moment($at * 1_000_000, MomentStyle::Day, $zone), 'tick strong',
            $x > $frame->right - 60 ? 'end' : 'middle');
    }

    /**
     * @param  array<int, StoredPart>  $causes
     */
    private static function steps(Frame $frame, StoragePlace $place, array $causes, int $from): void
    {
        $steps = array_values(array_filter($place->steps, static fn ($step): bool => $step->at >= $from));
        usort($steps, static fn ($a, $b): int => abs($b->bytes) <=> abs($a->bytes));
        $steps = array_slice($steps, 0, self::MOST_NAMED);
        usort($steps, static fn ($a, $b): int => $a->at <=> $b->at);
        $after = array_column(array_map(static fn ($one): array => [$one->at, $one->usedBytes], $place->readings), 1, 0);
        $taken = -INF;
        foreach ($steps as $step) {
            $x = $frame->x($step->at);
            $y = $frame->y($after[$step->at] ?? $place->last()->usedBytes);
            $said = ($step->bytes > 0 ? '+' : '−').Quantity::bytes(abs($step->bytes));
            $cause = $causes[$step->at] ?? null;
            $frame->dot('dot step', $x, $y, 3.5, "{$said}, ".($cause === null ? 'its cause is not known' : $cause->name()));
            if ($x - $taken >= self::ROOM) {
                // To the left of the step, where nothing is drawn yet; at the edge there is no room for that.
                [$beside, $anchor] = $x - $frame->left < self::ROOM + 40 ? [$x + 6, ''] : [$x - 6, 'end'];
                $below = $anchor === '' ? 16 : -5;
                $frame->text($beside, $y + $below, $said, 'tick strong', $anchor);
                $frame->text($beside, $y + $below + ($below > 0 ? 13 : -13), $cause === null ? 'its cause is not known' : $cause->name(),
                    'tick', $anchor);
                $taken = $x;
            }
        }
    }

    private static function summary(StoragePlace $place, Cluster $cluster): string
    {
        return ucfirst($place->title($cluster->name)).': '.Quantity::bytes($place->last()->usedBytes).' of '
            .Quantity::bytes($place->last()->limitBytes).' are used, full '.$place->whenFull().'.';
    }

    /**
     * @return list<list<string>>
     */
    private static function rows(StoragePlace $place, int $from, DateTimeZone $zone): array
    {
        $byDay = [];
        foreach ($place->readings as $one) {
            if ($one->at >= $from) {
                $byDay[moment($one->at * 1_000_000, MomentStyle::Day, $zone)] = $one;
            }
        }
        $rows = [];
        foreach ($byDay as $day => $one) {
            $rows[] = [$day, Quantity::bytes($one->usedBytes), Quantity::bytes($one->limitBytes)];
        }

        return $rows;
    }
}
