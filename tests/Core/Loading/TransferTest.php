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

final class TransferTest extends TestCase
{
    private const MB = 1_000_000;

    public function test_what_a_file_takes_and_how_fast_a_stream_is_are_told_apart(): void
    {
        $measure = TransferMeasure::of(self::files(array_fill(0, 10, [2, 4, 8]), 1));
        // Thirty files of 140 MB: each takes 2.6 s and a second for 4 MB.
        self::assertSame([30, 140 * self::MB], [$measure?->files, $measure?->bytes]);
        self::assertEqualsWithDelta(30 * 2.6 + 140 / 4, $measure->seconds, 1e-6);
        self::assertEqualsWithDelta(2.6, $measure->fileSeconds, 1e-6);
        self::assertEqualsWithDelta(4 * self::MB, $measure->streamBytesPerSecond, 1.0);
        self::assertSame(1.0, $measure->streams);
        self::assertEqualsWithDelta(140 * self::MB / 113, $measure->bytesPerSecond(), 1.0);
    }

    public function test_streams_beside_each_other_are_counted(): void
    {
        foreach ([2, 5, 10] as $streams) {
            $measure = TransferMeasure::of(self::files(array_fill(0, 10 * $streams, [2, 4, 8]), $streams));
            self::assertEqualsWithDelta($streams, $measure?->streams, 0.05 * $streams);
            self::assertEqualsWithDelta(2.6, $measure->fileSeconds, 0.02);
            self::assertEqualsWithDelta(4 * self::MB, $measure->streamBytesPerSecond, 0.02 * 4 * self::MB);
        }
    }

    public function test_awkward_transfers(): void
    {
        self::assertNull(TransferMeasure::of([]));
        self::assertNull(TransferMeasure::of([new TransferredFile(5, 7, 7)]), 'in no time');
        $alike = TransferMeasure::of([new TransferredFile(5, 0, 10), new TransferredFile(5, 10, 20)]);
        self::assertNull($alike?->streamBytesPerSecond, 'of files that are alike nobody knows which part is for the bytes');
        self::assertSame(1e-5, $alike->fileSeconds);
        $empty = TransferMeasure::of([new TransferredFile(0, 0, 1_000_000)]);
        self::assertSame([0.0, 1.0], [$empty?->bytesPerSecond(), $empty?->fileSeconds]);
        // Larger ones were faster: no time a byte below nothing.
        $faster = TransferMeasure::of([new TransferredFile(10, 0, 5), new TransferredFile(20, 5, 6)]);
        self::assertNull($faster?->streamBytesPerSecond);
        // A fit that begins below nothing is one through nothing.
        $through = TransferMeasure::of([new TransferredFile(10, 0, 1_000_000), new TransferredFile(20, 1_000_000, 6_000_000)]);
        self::assertSame(0.0, $through?->fileSeconds);
        self::assertEqualsWithDelta(5.0, $through->streamBytesPerSecond, 1e-9);
    }

    /**
     * @return iterable<string, array{TransferMeasure, array<value-of<TransferBound>, float>, float, TransferBound, int}>
     */
    public static function bounds(): iterable
    {
        $of = static fn (int $files, float $each, ?float $stream): TransferMeasure
            => new TransferMeasure($files, 900 * self::MB, 1.0, 1.0, $each, $stream);
        $link = ['link' => 10.0 * self::MB, 'disk' => 50.0 * self::MB];
        // 900 MB over 10 MB/s are 90 s.
        yield 'small files' => [$of(900, 0.6, 2.5 * self::MB), $link, 1.0, TransferBound::TinyFiles, 10];
        yield 'small files, many streams' => [$of(900, 0.6, 2.5 * self::MB), $link, 9.0, TransferBound::TinyFiles, 10];
        yield 'small files, enough streams' => [$of(900, 0.6, 2.5 * self::MB), $link, 10.0, TransferBound::Link, 10];
        yield 'one stream' => [$of(90, 0.6, 2.5 * self::MB), $link, 1.0, TransferBound::OneStream, 5];
        yield 'three streams' => [$of(90, 0.6, 2.5 * self::MB), $link, 3.0, TransferBound::Streams, 5];
        yield 'a slow disk' => [$of(9, 0.0, 20.0 * self::MB), ['link' => 100.0 * self::MB, 'source-disk' => 15.0 * self::MB], 2.0,
            TransferBound::SourceDisk, 1];
        yield 'one file has one stream' => [$of(1, 0.0, 2.0 * self::MB), $link, 8.0, TransferBound::OneStream, 1];
        yield 'nothing is known of what is shared' => [$of(90, 0.0, 2.0 * self::MB), [], 1.0, TransferBound::OneStream, 64];
    }

    /**
     * @param  array<value-of<TransferBound>, float>  $limits
     */
    #[DataProvider('bounds')]
    public function test_what_bounds_it_is_named(TransferMeasure $measure, array $limits, float $streams, TransferBound $bound,
        int $enough): void
    {
        $model = new TransferModel($measure, $limits);
        self::assertSame($bound, $model->bound($streams));
        self::assertSame($enough, $model->saturating());
        self::assertEqualsWithDelta($model->seconds($enough), $model->seconds($enough + 5), $limits === [] ? INF : 1e-6,
            'more make it no faster');
        if ($enough > 1) {
            self::assertGreaterThan($model->seconds($enough), $model->seconds($enough - 1), 'fewer make it slower');
        }
    }

    public function test_what_is_saved_by_streams_and_by_larger_files(): void
    {
        $measure = TransferMeasure::of(self::files(array_fill(0, 300, [2, 5, 8]), 1));
        $model = new TransferModel($measure ?? self::fail('nothing'), ['link' => 12.5 * self::MB]);
        // 4,500 MB: 900 files of 2.6 s and 1,125 s for their bytes; the link needs 360 s.
        self::assertEqualsWithDelta(3_465.0, $model->seconds(1), 0.01);
        self::assertSame(10, $model->saturating());
        self::assertEqualsWithDelta(3_465.0 - 360.0, $model->saved(10), 0.01);
        self::assertEqualsWithDelta(4_500 / 3_465 / 12.5, $model->share(), 1e-6);
        self::assertEqualsWithDelta(1_125.0 + 18 * 2.6, $model->packed(250 * self::MB)->seconds(1), 0.01);
        self::assertSame(0.0, $model->saved(1));
    }

    /** Streams that take their next file as soon as they are free, played through. */
    public function test_the_model_agrees_with_transfers_that_are_played_through(): void
    {
        $random = new Randomizer(new Mt19937(3));
        $sizes = [];
        for ($i = 0; $i < 900; $i++) {
            $sizes[] = [$random->getInt(2_000, 8_000) / 1_000];
        }
        $one = TransferMeasure::of(self::files($sizes, 1)) ?? self::fail('nothing');
        foreach ([2, 4, 8] as $streams) {
            $played = TransferMeasure::of(self::files($sizes, $streams));
            self::assertEqualsWithDelta($played?->seconds, (new TransferModel($one, []))->seconds($streams),
                0.01 * ($played->seconds ?? 0.0));
        }
    }

    /**
     * @param  list<list<float|int>>  $sizes in MB
     * @return list<TransferredFile> 2.6 s each and a second for 4 MB
     */
    private static function files(array $sizes, int $streams): array
    {
        $free = array_fill(0, $streams, 0);
        $files = [];
        foreach (array_merge(...$sizes) as $mb) {
            $stream = (int) array_search(min($free), $free, true);
            $start = $free[$stream];
            $free[$stream] += (int) round(1e6 * (2.6 + $mb / 4));
            $files[] = new TransferredFile((int) round($mb * self::MB), $start, $free[$stream]);
        }

        return $files;
    }
}
