<?php

declare(strict_types=1);

namespace App\Platform\Figures;

use Fulcrion\Core\Text\Quantity;

/**
 * How often durations of each size occurred.
 */
final readonly class BarFigure
{
    /**
     * @param  list<array{fromUs: int, toUs: int, count: int}>  $classes
     * @param  array<string, int|null>  $marks name => microseconds
     */
    public static function durations(string $id, array $classes, array $marks, int $samples): Figure
    {
        $most = max([1, ...array_column($classes, 'count')]);
        $summary = 'From '.Quantity::count($samples).' single durations.';
        $frame = new Frame(
            $id,
            'How long runs took',
            $summary,
            Axis::even(0.0, (float) max(1, count($classes))),
            Axis::even(0.0, (float) $most),
            height: 170,
            left: 5,
            top: 46,
            beside: 5,
            width: 560,
        );
        $width = $frame->x(1.0) - $frame->left;
        $rows = [];
        foreach ($classes as $i => $class) {
            $label = Quantity::duration($class['fromUs']).' to '.Quantity::duration($class['toUs']);
            $rows[] = [$label, Quantity::count($class['count'])];
            $height = $frame->bottom - $frame->y($class['count']);
            $frame->box(
                'bar s1',
                $frame->x($i),
                $frame->y($class['count']),
                max(1, $width - 2),
                max($class['count'] > 0 ? 1 : 0, $height),
                "{$label}: ".Quantity::count($class['count']).' executions',
            );
            if (count($classes) <= 10 || $i % (int) ceil(count($classes) / 8) === 0) {
                $frame->text($frame->x($i), $frame->height - 8, Quantity::duration($class['fromUs']), 'tick', '');
            }
        }
        if ($classes !== []) {
            $low = log(max(1, $classes[0]['fromUs']));
            $high = log($classes[count($classes) - 1]['toUs']);
            $level = 0;
            foreach ($marks as $name => $us) {
                if ($us !== null && $us > 0 && $high > $low) {
                    $x = $frame->left + ((log($us) - $low) / ($high - $low)) * ($frame->right - $frame->left);
                    $inside = $x > $frame->right - 35;
                    $frame->stroke('mark', $x, 4 + $level * 13, $x, $frame->bottom)
                        ->text($x + ($inside ? -3 : 3), 12 + $level * 13, $name, 'tick strong', $inside ? 'end' : 'start');
                    $level = ($level + 1) % 3;
                }
            }
        }

        return $frame->figure(
            'Executions by duration; each class is twice as long as the one before. From '.
                Quantity::count($samples).
                ' single durations, quantiles exact to 1%.',
            ['duration', 'executions'],
            $rows,
        );
    }
}
