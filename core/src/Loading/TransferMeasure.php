<?php

declare(strict_types=1);

namespace Fulcrion\Core\Loading;

/**
 * What a transfer was like: its rate, how many files came at once, what each file took beside its bytes and how fast one stream was. The
 * last two are fitted by least squares to the time of each file in its stream, from the end of the file before it there.
 */
final readonly class TransferMeasure
{
    /**
     * @param  float  $streams that were at work at once, on the mean
     * @param  float  $fileSeconds what a file takes however small it is
     * @param  float|null  $streamBytesPerSecond of one stream while bytes come; null where files are too much alike to tell it from the
     *     rest
     */
    public function __construct(
        public int $files,
        public int $bytes,
        public float $seconds,
        public float $streams,
        public float $fileSeconds,
        public ?float $streamBytesPerSecond,
    ) {
    }

    /**
     * @param  list<TransferredFile>  $files
     * @return self|null null where nothing was brought, or in no time
     */
    public static function of(array $files): ?self
    {
        usort($files, static fn (TransferredFile $a, TransferredFile $b): int => [$a->startUs, $a->endUs] <=> [$b->startUs, $b->endUs]);
        $ends = $times = [];
        $busyUs = 0;
        foreach ($files as $file) {
            $stream = self::stream($ends, $file->startUs);
            $times[] = [$file->bytes, ($file->endUs - ($ends[$stream] ?? $file->startUs)) / 1e6];
            $busyUs += $file->endUs - ($ends[$stream] ?? $file->startUs);
            $ends[$stream] = $file->endUs;
        }
        $seconds = $files === [] ? 0.0 : (max($ends) - $files[0]->startUs) / 1e6;
        if ($seconds <= 0.0 || $times === []) {
            return null;
        }
        [$fileSeconds, $secondsPerByte] = self::fit($times);

        return new self(count($files), array_sum(array_column($times, 0)), $seconds, max(1.0, $busyUs / 1e6 / $seconds), $fileSeconds,
            $secondsPerByte > 0.0 ? 1 / $secondsPerByte : null);
    }

    public function bytesPerSecond(): float
    {
        return $this->bytes / $this->seconds;
    }

    /**
     * The stream whose last file ended last before this one began; a new one where all are at work.
     *
     * @param  array<int, int>  $ends
     */
    private static function stream(array $ends, int $startUs): int
    {
        $best = null;
        foreach ($ends as $stream => $endUs) {
            if ($endUs <= $startUs && ($best === null || $endUs > $ends[$best])) {
                $best = $stream;
            }
        }

        return $best ?? count($ends);
    }

    /**
     * @param  non-empty-list<array{int, float}>  $times bytes and seconds
     * @return array{float, float} seconds a file and seconds a byte, none below nothing
     */
    private static function fit(array $times): array
    {
        $count = count($times);
        $bytes = array_sum(array_column($times, 0)) / $count;
        $seconds = array_sum(array_column($times, 1)) / $count;
        $square = $product = 0.0;
        foreach ($times as [$one, $took]) {
            $square += ($one - $bytes) ** 2;
            $product += ($one - $bytes) * ($took - $seconds);
        }
        $slope = $square > 0.0 ? max(0.0, $product / $square) : 0.0;
        $start = $seconds - $slope * $bytes;

        return $start >= 0.0 ? [$start, $slope] : [0.0, $bytes > 0.0 ? $seconds / $bytes : 0.0];
    }
}
