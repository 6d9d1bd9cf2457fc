<?php

declare(strict_types=1);

namespace App\Loading\Charts;

use App\Loading\Models\LoadTrial;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use Fulcrion\Core\Loading\TransferBound;
use Fulcrion\Core\Loading\TransferMeasure;
use Fulcrion\Core\Loading\TransferModel;
use Fulcrion\Core\Text\Quantity;

/**
 * The rate that is reached by the number of streams: as dashes what is modelled, as dots what was measured, and what all streams share as
 * a line none passes.
 */
final readonly class StreamsFigure
{
    private const HEIGHT = 260;

    private const AT = [1, 2, 4, 8, 16, 32, 64];

    public static function ofModel(TransferModel $model): Figure
    {
        $measure = $model->measure;
        $enough = $model->saturating();

        return self::draw('streams', 'Rate by number of streams', $model, [[$measure->streams, $measure->bytesPerSecond(), 'measured']],
            max(16, min(TransferModel::MOST_STREAMS, 2 * $enough)),
            'Dot: the last delivery, as it was measured. Dashes: the same files with other numbers of streams, modelled by what each took '
            .'beside its bytes and how fast a stream was (fitted to its files), and by what all share. What all share is as the practice '
            .'cluster is shaped, as somebody said, or as it was measured.');
    }

    public static function ofTrial(LoadTrial $trial): Figure
    {
        $rows = $trial->result ?? [];
        $best = max([1.0, ...array_map(static fn (array $row): float => $row['bytes'] / $row['seconds'], $rows)]);
        $first = $rows[0];
        $model = new TransferModel(new TransferMeasure($first['files'], $first['bytes'], $first['seconds'], 1.0, $first['fileSeconds'],
            $first['streamRate']), [TransferBound::Disk->value => $best]);

        return self::draw('trial', 'Rate by number of streams, tried', $model,
            array_map(static fn (array $row): array => [(float) $row['streams'], $row['bytes'] / $row['seconds'], 'measured'], $rows), 8,
            'Dots: measured here, each stream a process that wrote its files one after the other. Dashes: modelled from the run with one '
            .'stream and the best rate that was reached. There is no link in it: it is the way from here into the cluster or folder.');
    }

    /**
     * @param  list<array{float, float, string}>  $dots streams, bytes a second and how they are known
     */
    private static function draw(string $id, string $title, TransferModel $model, array $dots, int $most, string $how): Figure
    {
        $least = $model->least();
        $rate = static fn (float $streams): float => $model->measure->bytes / max(1e-9, $model->seconds($streams));
        $top = max([1.0, $rate((float) $most), ...array_column($dots, 1)]) * 1.12;
        $ticks = Scale::inUnits($top, about: 3);
        $enough = $model->saturating();
        $frame = new Frame($id, $title, 'With '.$enough.' streams it would come at '.Quantity::bytes($rate((float) $enough))
            .'/s, by one stream at '
            .Quantity::bytes($rate(1.0)).'/s.', Axis::magnitudes(0.9, $most * 1.1), Axis::even(0.0, max($top, 1.0)), height: self::HEIGHT,
            left: 96, below: 40);
        $frame->grid(array_filter($ticks, static fn (float $tick): bool => $tick <= $top), static fn (float $tick): string
            => Quantity::bytes($tick).'/s');
        $at = array_filter(self::AT, static fn (int $streams): bool => $streams <= $most);
        $frame->along(array_combine($at, array_map(strval(...), $at)), 22)->names('', 'streams at once');
        $line = [];
        for ($step = 0; $step <= 60; $step++) {
            $streams = $most ** ($step / 60);
            $line[] = [$streams, $rate($streams)];
        }
        $frame->line('expected', $line);
        if ($least !== null && $model->limits[$least->value] <= $top) {
            $frame->limitAcross($model->limits[$least->value], $least->said().', '.Quantity::bytes($model->limits[$least->value]).'/s');
        }
        if ($enough > 1 && $enough <= $most) {
            $frame->limitUp((float) $enough, "{$enough} streams");
        }
        $rows = [];
        foreach ($at as $streams) {
            $rows[] = [(string) $streams, Quantity::bytes($rate((float) $streams)).'/s',
                Quantity::duration($model->seconds((float) $streams) * 1e6),
                'modelled'];
        }
        foreach ($dots as [$streams, $bytes, $word]) {
            $frame->dot('dot s1', $frame->x(max(1.0, $streams)), $frame->y($bytes), 5, Quantity::digits($streams).' streams: '
                .Quantity::bytes($bytes).'/s, '.$word);
            $rows[] = [Quantity::digits($streams), Quantity::bytes($bytes).'/s',
                Quantity::duration($model->measure->bytes / max(1.0, $bytes) * 1e6),
                $word];
        }

        return $frame->figure($how, ['streams', 'rate', 'takes', 'how it is known'], $rows);
    }
}
