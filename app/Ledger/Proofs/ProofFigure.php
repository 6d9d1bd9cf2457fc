<?php

declare(strict_types=1);

namespace App\Ledger\Proofs;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use Fulcrion\Core\Proofs\Proof;
use Fulcrion\Core\Text\Quantity;

/**
 * Each statement as a pair of bars on one log scale: before above after, joined by what was won or lost.
 */
final readonly class ProofFigure
{
    public static function of(Proof $proof): Figure
    {
        $lines = array_slice($proof->lines, 0, 40);
        $times = [];
        foreach ($lines as $line) {
            if (! $line->failed()) {
                array_push($times, max(1, $line->before->us()), max(1, $line->after->us()));
            }
        }
        $low = $times === [] ? 1.0 : 10 ** floor(log10(min($times)));
        $high = $times === [] ? 10.0 : 10 ** ceil(log10(max($times)));
        $high = max($high, $low * 10);
        $height = 26 + 38 * count($lines);
        $frame = new Frame(
            'proof',
            $proof->sentence(),
            count($lines).' statements, each before and after.',
            Axis::magnitudes($low, $high),
            Axis::even(0.0, 1.0),
            height: $height,
            left: 96,
            beside: 190,
            class: ' proof-svg',
        );
        for ($tick = $low; $tick <= $high * 1.001; $tick *= 10) {
            $x = $frame->x($tick);
            $frame->stroke('grid', $x, 16, $x, $height)->text($x, 11, Quantity::duration($tick));
        }
        $rows = [];
        foreach ($lines as $i => $line) {
            $y = 24 + 38 * $i;
            $frame->text(0, $y + 18, substr($line->statement, 0, 8), 'tick strong', '');
            if ($line->failed()) {
                $frame->text($frame->left, $y + 18, 'failed', 'tick', '');
                $rows[] = [substr($line->statement, 0, 8), 'failed', 'failed', ''];

                continue;
            }
            [$before, $after] = [Quantity::duration($line->before->us()), Quantity::duration($line->after->us())];
            $ends = [$frame->x(max(1, $line->before->us())), $frame->x(max(1, $line->after->us()))];
            $bar = 'after-bar'.($line->isWorse() ? ' worse' : '');
            $frame->box('before-bar', $frame->left, $y, max(1, $ends[0] - $frame->left), 11, "before: {$before}")
                ->box($bar, $frame->left, $y + 13, max(1, $ends[1] - $frame->left), 11, "after: {$after}")
                ->text($ends[0] + 6, $y + 9.5, $before, 'tick', '')
                ->text($ends[1] + 6, $y + 22.5, "{$after}, ".self::words($line->factor()), 'tick strong', '');
            $rows[] = [
                substr($line->statement, 0, 8),
                $before,
                $after,
                self::words($line->factor()),
            ];
        }

        return $frame->figure(
            'Time of each statement before (outlined) and after (filled), on a log scale; what got worse comes first.',
            ['statement', 'before', 'after', 'change'],
            $rows,
        );
    }

    public static function words(float $factor): string
    {
        return match (true) {
            $factor >= 1.03 => Quantity::digits($factor).' times as fast',
            $factor < 0.97 => Quantity::digits(1 / $factor).' times as slow',
            default => 'the same',
        };
    }
}
