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

    public function __construct(private readonly int $slowest = 2, private readonly int $random = 3)
    {
    }

    /**
     * @param  T  $sample
     */
    public function offer(int $durationUs, string $lot, mixed $sample): void
    {
        $entry = [$durationUs, $lot, $sample];
        $this->slow[$lot] = $entry;
        if (count($this->slow) > $this->slowest) {
            uasort($this->slow, static fn (array $a, array $b): int => [$b[0], $a[1]] <=> [$a[0], $b[1]]);
            array_pop($this->slow);
        }
        $this->fair[$lot] = $entry;
        if (count($this->fair) > $this->random) {
            ksort($this->fair, SORT_STRING);
            array_pop($this->fair);
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
