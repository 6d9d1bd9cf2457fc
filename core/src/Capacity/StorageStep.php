<?php

declare(strict_types=1);

namespace Fulcrion\Core\Capacity;

/**
 * A moment at which much came or went at once.
 */
final readonly class StorageStep
{
    private const SHARE = 0.01;

    private const TIMES = 10.0;

    /**
     * @param  int  $at Unix second of the first reading after it
     * @param  float  $bytes below 0 where it was given back
     */
    public function __construct(public int $at, public float $bytes)
    {
    }

    /**
     * Finds steps: what comes between two readings is one where it is a hundredth of what there is, and ten times what usually comes
     * between two readings.
     *
     * @param  list<StorageReading>  $readings ascending
     * @return list<self> ascending; parts of one step that follow each other are one
     */
    public static function find(array $readings): array
    {
        $grown = [];
        for ($i = 1; $i < count($readings); $i++) {
            $grown[] = abs($readings[$i]->usedBytes - $readings[$i - 1]->usedBytes);
        }
        if ($grown === []) {
            return [];
        }
        sort($grown);
        $usual = $grown[intdiv(count($grown), 2)];
        $steps = [];
        $last = -2;
        for ($i = 1; $i < count($readings); $i++) {
            $bytes = $readings[$i]->usedBytes - $readings[$i - 1]->usedBytes;
            if (abs($bytes) < max(self::SHARE * max(1.0, $readings[$i]->usedBytes), self::TIMES * $usual)) {
                continue;
            }
            $before = array_key_last($steps);
            if ($last === $i - 1 && $before !== null && $steps[$before]->bytes > 0 === $bytes > 0) {
                $steps[$before] = new self($steps[$before]->at, $steps[$before]->bytes + $bytes);
            } else {
                $steps[] = new self($readings[$i]->at, $bytes);
            }
            $last = $i;
        }

        return $steps;
    }
}
