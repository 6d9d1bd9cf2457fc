<?php

declare(strict_types=1);

namespace Tests\Core\Loading;

use Fulcrion\Core\Loading\TransferBound;
use Fulcrion\Core\Loading\TransferMeasure;
use Fulcrion\Core\Loading\TransferModel;
use Fulcrion\Core\Loading\TransferredFile;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Transfers played through by the hundredth of a second, with a link all streams share: what is measured of one stream, and what the model
 * then says of others.
 */
final class TransferSimulationTest extends TestCase
{
    private const MB = 1_000_000;

    private const STEP = 0.01;

    /**
     * @return iterable<string, array{int, int, int, float, float, float}> files, sizes in MB, seconds a file, MB a second of a stream and
     *     of the link
     */
    public static function transfers(): iterable
    {
        yield 'small files' => [120, 2, 8, 0.5, 20.0, 60.0];
        yield 'files that take nothing but their bytes' => [80, 4, 30, 0.0, 15.0, 50.0];
        yield 'a narrow link' => [60, 5, 20, 0.2, 20.0, 30.0];
        yield 'tiny files' => [300, 0, 1, 0.3, 50.0, 200.0];
    }

    #[DataProvider('transfers')]
    public function test_what_one_stream_was_like_tells_of_several(
        int $count,
        int $least,
        int $most,
        float $each,
        float $stream,
        float $link,
    ): void {
        $random = new Randomizer(new Mt19937($count));
        $sizes = [];
        for ($i = 0; $i < $count; $i++) {
            $sizes[] = (int) (self::MB * ($least + ($most - $least) * $random->getInt(0, 1_000) / 1_000) + 1);
        }
        $one = TransferMeasure::of(self::play($sizes, 1, $each, $stream * self::MB, $link * self::MB)) ?? self::fail('nothing');
        self::assertEqualsWithDelta($each, $one->fileSeconds, 0.02 + 0.05 * $each);
        if ($most > 1) {
            self::assertEqualsWithDelta($stream * self::MB, $one->streamBytesPerSecond, 0.06 * $stream * self::MB);
        }
        $model = new TransferModel($one, [TransferBound::Link->value => $link * self::MB]);
        foreach ([1, 2, 4, 8, 16] as $streams) {
            $played = TransferMeasure::of(self::play($sizes, $streams, $each, $stream * self::MB, $link * self::MB))
                ?? self::fail('nothing');
            // The last files leave streams idle: by the largest file at most.
            $slack = 0.12 * $played->seconds + $each + $most / min($stream, $link / $streams);
            self::assertEqualsWithDelta($played->seconds, $model->seconds($streams), $slack, "{$streams} streams");
            self::assertLessThanOrEqual($played->seconds * 1.05 + 0.5, $model->seconds($streams), 'never slower than it really is');
        }
        $enough = $model->saturating();
        if ($enough === TransferModel::MOST_STREAMS) {
            // Nobody is told to bring more at once than that.
            return;
        }
        $played = TransferMeasure::of(self::play($sizes, $enough, $each, $stream * self::MB, $link * self::MB)) ?? self::fail('nothing');
        $more = TransferMeasure::of(self::play($sizes, 2 * $enough, $each, $stream * self::MB, $link * self::MB)) ?? self::fail('nothing');
        self::assertGreaterThan(0.75 * $played->seconds, $more->seconds, 'twice as many streams as are said to be enough gain little');
    }

    public function test_noise_of_a_tenth_does_not_hide_what_a_file_takes(): void
    {
        $random = new Randomizer(new Mt19937(12));
        $at = 0.0;
        $files = [];
        for ($i = 0; $i < 900; $i++) {
            $bytes = $random->getInt(2 * self::MB, 8 * self::MB);
            $took = (2.6 + $bytes / (3.5 * self::MB)) * (0.9 + 0.2 * $random->getInt(0, 1_000) / 1_000);
            $files[] = new TransferredFile($bytes, (int) ($at * 1e6), (int) (($at + $took) * 1e6));
            $at += $took;
        }
        $measure = TransferMeasure::of($files) ?? self::fail('nothing');
        self::assertEqualsWithDelta(2.6, $measure->fileSeconds, 0.15);
        self::assertEqualsWithDelta(3.5 * self::MB, $measure->streamBytesPerSecond, 0.35 * self::MB);
        // Gaps between files are what a file takes too.
        $apart = array_map(static fn (TransferredFile $file, int $i): TransferredFile => new TransferredFile($file->bytes,
            $file->startUs + 500_000 * $i, $file->endUs + 500_000 * $i), $files, array_keys($files));
        $paused = TransferMeasure::of($apart) ?? self::fail('nothing');
        self::assertEqualsWithDelta($measure->fileSeconds + 0.5, $paused->fileSeconds, 0.01);
    }

    public function test_the_order_of_files_and_the_moment_change_nothing(): void
    {
        $files = self::play([5 * self::MB, 1 * self::MB, 9 * self::MB, 2 * self::MB, 7 * self::MB], 2, 0.4, 3.0 * self::MB, 5.0 * self::MB);
        $later = array_map(static fn (TransferredFile $file): TransferredFile => new TransferredFile($file->bytes,
            $file->startUs + 1_795_000_000_000_000, $file->endUs + 1_795_000_000_000_000), array_reverse($files));
        self::assertEquals(TransferMeasure::of($files), TransferMeasure::of($later));
    }

    public function test_more_streams_are_never_said_to_be_slower(): void
    {
        $random = new Randomizer(new Mt19937(77));
        for ($run = 0; $run < 200; $run++) {
            $measure = new TransferMeasure($random->getInt(1, 500), $random->getInt(1, 1_000) * self::MB, 1.0, 1.0,
                $random->getInt(0, 300) / 100,
                $random->getInt(0, 4) === 0 ? null : $random->getInt(1, 90) * 1.0 * self::MB);
            $limits = array_filter([
                'link' => $random->getInt(0, 100) * 1.0 * self::MB, 'disk' => $random->getInt(0, 300) * 1.0 * self::MB,
            ], static fn (float $rate): bool => $rate > 0.0);
            $model = new TransferModel($measure, $limits);
            $before = INF;
            for ($streams = 1; $streams <= TransferModel::MOST_STREAMS; $streams++) {
                $seconds = $model->seconds($streams);
                self::assertLessThanOrEqual($before + 1e-9, $seconds);
                foreach ($limits as $limit) {
                    self::assertGreaterThanOrEqual($measure->bytes / $limit - 1e-9, $seconds, 'nothing is faster than what all share');
                }
                $before = $seconds;
            }
            $enough = $model->saturating();
            self::assertGreaterThanOrEqual(1, $enough);
            self::assertLessThanOrEqual(min(TransferModel::MOST_STREAMS, $measure->files), $enough);
            self::assertGreaterThanOrEqual(0.0, $model->saved($enough));
            $share = $model->share();
            self::assertTrue($share === null || $share > 0.0);
            self::assertSame($limits === [], $model->least() === null);
        }
    }

    /**
     * Each free stream takes the next file: first what a file takes, then its bytes, as fast as a stream is and as its part of the link.
     *
     * @param  list<int>  $sizes
     * @return list<TransferredFile>
     */
    private static function play(array $sizes, int $streams, float $each, float $rate, float $link): array
    {
        $busy = $done = [];
        $next = 0;
        $now = 0.0;
        while ($next < count($sizes) || $busy !== []) {
            while (count($busy) < $streams && $next < count($sizes)) {
                $busy[] = ['size' => $sizes[$next], 'start' => $now, 'wait' => $each, 'left' => (float) $sizes[$next]];
                $next++;
            }
            $moving = count(array_filter($busy, static fn (array $one): bool => $one['wait'] <= 0.0));
            $share = $moving === 0 ? $rate : min($rate, $link / $moving);
            // On to the next moment at which something is through, or a hundredth of a second.
            $step = self::STEP;
            foreach ($busy as $one) {
                $step = min($step, $one['wait'] > 0.0 ? $one['wait'] : max(1e-9, $one['left'] / $share));
            }
            $now += $step;
            foreach ($busy as $place => $one) {
                if ($one['wait'] > 0.0) {
                    $busy[$place]['wait'] = $one['wait'] - $step < 1e-9 ? 0.0 : $one['wait'] - $step;
                } elseif ($one['left'] - $share * $step <= 1e-3) {
                    $done[] = new TransferredFile($one['size'], (int) round($one['start'] * 1e6), (int) round($now * 1e6));
                    unset($busy[$place]);
                } else {
                    $busy[$place]['left'] = $one['left'] - $share * $step;
                }
            }
        }

        return $done;
    }
}
