<?php

declare(strict_types=1);

namespace Fulcrion\Core\Loading;

/**
 * How long the same files take with other numbers of streams: each stream takes its files one after the other, and all together no more
 * than what they share lets through.
 */
final readonly class TransferModel
{
    public const MOST_STREAMS = 64;

    /**
     * @param  array<value-of<TransferBound>, float>  $limits bytes a second of what all streams share, by its name
     */
    public function __construct(public TransferMeasure $measure, public array $limits)
    {
    }

    /** Seconds it takes. */
    public function seconds(float $streams): float
    {
        return max($this->ownSeconds() / min(max(1.0, $streams), max(1, $this->measure->files)), $this->sharedSeconds());
    }

    /** What bounds it. */
    public function bound(float $streams): TransferBound
    {
        $streams = min(max(1.0, $streams), max(1, $this->measure->files));
        $least = $this->least();
        if ($least !== null && $this->sharedSeconds() >= $this->ownSeconds() / $streams) {
            return $least;
        }
        if ($this->measure->files * $this->measure->fileSeconds > $this->ownSeconds() / 2) {
            return TransferBound::TinyFiles;
        }

        return $streams < 1.5 ? TransferBound::OneStream : TransferBound::Streams;
    }

    /** The fewest streams with which what they share is used up; more make it no faster. */
    public function saturating(): int
    {
        $shared = $this->sharedSeconds();
        $most = min(self::MOST_STREAMS, max(1, $this->measure->files));

        return $shared <= 0.0 ? $most : min($most, (int) ceil($this->ownSeconds() / $shared - 1e-9));
    }

    /** Seconds less with so many streams than it took; by the model at both ends, so that what it does not know of cancels out. */
    public function saved(float $streams): float
    {
        return max(0.0, $this->seconds($this->measure->streams) - $this->seconds($streams));
    }

    /** Part of the least of what is shared that was used. */
    public function share(): ?float
    {
        $least = $this->least();

        return $least === null ? null : $this->measure->bytesPerSecond() / $this->limits[$least->value];
    }

    /** What lets the least through. */
    public function least(): ?TransferBound
    {
        $limits = $this->limits;
        asort($limits);
        $name = array_key_first($limits);

        return $name === null ? null : TransferBound::from($name);
    }

    /** The same bytes in fewer files. */
    public function packed(int $bytesPerFile): self
    {
        $files = max(1, (int) ceil($this->measure->bytes / max(1, $bytesPerFile)));
        $one = $this->measure;

        return new self(new TransferMeasure(min($one->files, $files), $one->bytes, $one->seconds, $one->streams, $one->fileSeconds,
            $one->streamBytesPerSecond), $this->limits);
    }

    /** What all files take one after the other. */
    private function ownSeconds(): float
    {
        $one = $this->measure;

        return $one->files * $one->fileSeconds + ($one->streamBytesPerSecond === null ? 0.0 : $one->bytes / $one->streamBytesPerSecond);
    }

    private function sharedSeconds(): float
    {
        $least = $this->least();

        return $least === null ? 0.0 : $this->measure->bytes / $this->limits[$least->value];
    }
}
