<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements;

/**
 * Keeps, of any number of executions, the slowest and a fair random few. Fairness comes from a lot that each execution
 * carries (a hash): the lowest lots stay, so shelves may be filled in any order and merged.
 *
 * @template T
 */
final class SampleShelf
{
    /** @var array<string, array{int, string, T}> lot => duration in microseconds, lot, sample */
    private array $slow = [];

    /** @var array<string, array{int, string, T}> */
    private array $fair = [];

    /** Shortest duration on a full shelf of slow ones. */
    private int $slowEnough = 0;

    /** Highest lot on a full shelf of fair ones; above any lot while there is room. */
    private string $luckyEnough = "\xff";

    public function __construct(private readonly int $slowest = 2, private readonly int $random = 3)
    {
    }

    /**
     * @param  T  $sample
     */
    public function offer(int $durationUs, string $lot, mixed $sample): void
    {
        // Most offers are refused; that must be cheap.
        if ($durationUs < $this->slowEnough && $lot > $this->luckyEnough) {
            return;
        }
        $entry = [$durationUs, $lot, $sample];
        $this->slow[$lot] = $entry;
        if (count($this->slow) >= $this->slowest) {
            uasort($this->slow, static fn (array $a, array $b): int => [$b[0], $a[1]] <=> [$a[0], $b[1]]);
            $this->slow = array_slice($this->slow, 0, $this->slowest, true);
            $last = end($this->slow);
            $this->slowEnough = $last === false ? PHP_INT_MAX : $last[0];
        }
        $this->fair[$lot] = $entry;
        if (count($this->fair) >= $this->random) {
            ksort($this->fair, SORT_STRING);
            $this->fair = array_slice($this->fair, 0, $this->random, true);
            $last = end($this->fair);
            $this->luckyEnough = $last === false ? '' : $last[1];
        }
    }

    /**
     * @return list<array{durationUs: int, lot: string, slow: bool, sample: T}> slowest first
     */
    public function kept(): array
    {
        $kept = [];
        foreach ($this->slow + $this->fair as $lot => [$durationUs, $key, $sample]) {
            $kept[] = ['durationUs' => $durationUs, 'lot' => $key, 'slow' => isset($this->slow[$lot]), 'sample' => $sample];
        }
        usort($kept, static fn (array $a, array $b): int => [$b['durationUs'], $a['lot']] <=> [$a['durationUs'], $b['lot']]);

        return $kept;
    }
}
