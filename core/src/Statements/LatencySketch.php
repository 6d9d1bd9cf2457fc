<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements;

use InvalidArgumentException;

/**
 * A histogram of durations in log-spaced bins; any quantile is off by at most one percent of its value.
 *
 * Durations below 256 microseconds have a bin each. Above, bin 256+i holds those from 256g^i to 256g^(i+1) with
 * g = (1+a)/(1-a), and answers the value that is off by at most the share a at either end (Masson, Rim, Lee: DDSketch,
 * VLDB 2019). a is 0.0075, which leaves room for rounding to whole microseconds.
 *
 * Binary form: any number of little-endian 32-bit words, bin in the upper 11 bits, count in the lower 21. A bin may
 * occur several times, its counts add up; two sketches are therefore merged by writing one behind the other, which a
 * database can do by itself.
 */
final readonly class LatencySketch
{
    public const RELATIVE_ERROR = 0.01;

    private const A = 0.0075;

    private const EXACT = 256;

    private const GAMMA = (1 + self::A) / (1 - self::A);

    /** 1 / ln(GAMMA) */
    private const SCALE = 66.665_416_647_916;

    private const MAX_BIN = 2047;

    private const MAX_COUNT = 0x1FFFFF;

    /**
     * @param  array<int, int>  $counts bin => count
     */
    private function __construct(private array $counts)
    {
    }

    public static function empty(): self
    {
        return new self([]);
    }

    /**
     * @param  array<int, int>  $counts bin => count
     */
    public static function ofCounts(array $counts): self
    {
        return new self($counts);
    }

    /**
     * @param  iterable<int>  $durationsUs
     */
    public static function of(iterable $durationsUs): self
    {
        $counts = [];
        foreach ($durationsUs as $durationUs) {
            $bin = self::bin($durationUs);
            $counts[$bin] = ($counts[$bin] ?? 0) + 1;
        }

        return new self($counts);
    }

    public static function bin(int $durationUs): int
    {
        return $durationUs < self::EXACT
            ? max(0, $durationUs)
            : min(self::MAX_BIN, self::EXACT + (int) (log($durationUs / self::EXACT) * self::SCALE));
    }

    /**
     * @throws InvalidArgumentException when the bytes are no whole number of words
     */
    public static function fromBinary(string $bytes): self
    {
        if (strlen($bytes) % 4 !== 0) {
            throw new InvalidArgumentException(
                'A latency sketch has a length that is a multiple of 4 bytes, this one has '.strlen($bytes).'.',
            );
        }
        $counts = [];
        /** @var array<int, int>|false $words */
        $words = unpack('V*', $bytes);
        foreach ($words === false ? [] : $words as $word) {
            $bin = $word >> 21;
            $counts[$bin] = ($counts[$bin] ?? 0) + ($word & self::MAX_COUNT);
        }

        return new self($counts);
    }

    /**
     * @param  array<int, int>  $counts
     */
    public static function encode(array $counts): string
    {
        $words = [];
        foreach ($counts as $bin => $count) {
            for (; $count > self::MAX_COUNT; $count -= self::MAX_COUNT) {
                $words[] = ($bin << 21) | self::MAX_COUNT;
            }
            $words[] = ($bin << 21) | $count;
        }

        return $words === [] ? '' : pack('V*', ...$words);
    }

    /** Canonical: every bin once, in order. */
    public function toBinary(): string
    {
        $counts = $this->counts;
        ksort($counts);

        return self::encode($counts);
    }

    public function merge(self $other): self
    {
        $counts = $this->counts;
        foreach ($other->counts as $bin => $count) {
            $counts[$bin] = ($counts[$bin] ?? 0) + $count;
        }

        return new self($counts);
    }

    /**
     * @return array<int, int> executions by bin, in no order
     */
    public function counts(): array
    {
        return $this->counts;
    }

    public function count(): int
    {
        return array_sum($this->counts);
    }

    /** How many took longer, within 2% of the duration: those of its own bin are not among them. */
    public function above(int $durationUs): int
    {
        $bin = self::bin($durationUs);

        return array_sum(array_filter($this->counts, static fn (int $one): bool => $one > $bin, ARRAY_FILTER_USE_KEY));
    }

    /**
     * @param  float  $q 0 to 1; the value of rank ceil(q*n), at least the first
     * @return int|null microseconds, null when nothing was counted
     */
    public function quantile(float $q, int $mostUs = PHP_INT_MAX): ?int
    {
        return $this->quantiles([$q], $mostUs)[0];
    }

    /**
     * @param  list<float>  $qs in ascending order
     * @param  int  $mostUs the longest duration, where it is known exactly: no quantile is above it
     * @return list<int|null>
     */
    public function quantiles(array $qs, int $mostUs = PHP_INT_MAX): array
    {
        $total = $this->count();
        if ($total === 0) {
            return array_fill(0, count($qs), null);
        }
        $counts = $this->counts;
        ksort($counts);
        $answers = [];
        $next = 0;
        $sum = 0;
        foreach ($counts as $bin => $count) {
            $sum += $count;
            while ($next < count($qs) && $sum >= max(1, (int) ceil($qs[$next] * $total))) {
                $answers[] = min($mostUs, self::value($bin));
                $next++;
            }
        }

        return $answers;
    }

    /**
     * Counts in coarser classes for a figure.
     *
     * @return list<array{fromUs: int, toUs: int, count: int}>
     */
    public function classes(float $growth = 2.0): array
    {
        if ($this->counts === []) {
            return [];
        }
        $classes = [];
        foreach ($this->counts as $bin => $count) {
            $class = (int) floor(log(max(1, self::value($bin))) / log($growth));
            $classes[$class] = ($classes[$class] ?? 0) + $count;
        }
        $out = [];
        for ($class = min(array_keys($classes)), $last = max(array_keys($classes)); $class <= $last; $class++) {
            $out[] = [
                'fromUs' => (int) round($growth ** $class),
                'toUs' => (int) round($growth ** ($class + 1)),
                'count' => $classes[$class] ?? 0,
            ];
        }

        return $out;
    }

    private static function value(int $bin): int
    {
        return $bin < self::EXACT
            ? $bin
            : (int) round((self::EXACT * self::GAMMA ** ($bin - self::EXACT) * 2 * self::GAMMA) / (self::GAMMA + 1));
    }
}
