<?php

declare(strict_types=1);

namespace Fulcrion\Core\Backup;

use Fulcrion\Core\Statistics\Spread;

/**
 * The backups of one schema.
 */
final readonly class SchemaBackups
{
    private const DAY_US = 86_400_000_000;

    /** Where less is known than this many good ones, one a day is expected. */
    private const LEAST_KNOWN = 4;

    /** So many times what is usual between two is late. */
    private const LATE = 2.0;

    /** Nothing is late before. */
    private const LEAST_LATE_US = 36 * 3_600_000_000;

    /**
     * @param  list<Backup>  $backups by the time they started
     * @param  list<BackupState>  $states of each of them
     */
    public function __construct(public string $schema, public array $backups, public array $states, public int $atUs)
    {
    }

    /** The newest that could be restored from. */
    public function newest(): ?Backup
    {
        return $this->good()[0] ?? null;
    }

    /** @return int|null what would be lost at the moment, in microseconds: all since the newest good one began; null where there is none */
    public function ageUs(): ?int
    {
        $newest = $this->newest();

        return $newest === null ? null : $this->atUs - $newest->startedUs;
    }

    /** What lies between two of them in the middle, whether they were good or not, in microseconds. */
    public function usualUs(): int
    {
        $gaps = [];
        foreach ($this->backups as $place => $one) {
            if ($place > 0 && $one->startedUs > $this->backups[$place - 1]->startedUs) {
                $gaps[] = (float) ($one->startedUs - $this->backups[$place - 1]->startedUs);
            }
        }

        return count($gaps) < self::LEAST_KNOWN - 1 ? self::DAY_US : (int) Spread::median($gaps);
    }

    /** Whether the newest good one is older than it should be, or there is none. */
    public function isLate(): bool
    {
        $age = $this->ageUs();

        return $age === null || $age > max(self::LEAST_LATE_US, self::LATE * $this->usualUs());
    }

    /** The last that was tried after the newest good one. */
    public function lastTried(): ?Backup
    {
        $last = $this->backups === [] ? null : $this->backups[count($this->backups) - 1];

        return $last === $this->newest() ? null : $last;
    }

    /** How many since the newest good one failed or were damaged. */
    public function badSince(): int
    {
        $since = $this->newest()->startedUs ?? PHP_INT_MIN;
        $count = 0;
        foreach ($this->backups as $place => $one) {
            $count += (int) ($one->startedUs > $since && ! $this->states[$place]->isGood());
        }

        return $count;
    }

    /**
     * What each day is worth: the best of what was begun on it.
     *
     * @param  list<int>  $days their first microsecond, ascending; the last one ends with the moment
     * @return list<array{BackupState, Backup}|null> null where nothing was begun
     */
    public function byDay(array $days): array
    {
        $best = array_fill(0, count($days), null);
        foreach ($this->backups as $place => $one) {
            $day = count($days) - 1;
            while ($day >= 0 && $days[$day] > $one->startedUs) {
                $day--;
            }
            $known = $day < 0 ? null : $best[$day];
            if ($day >= 0 && ($known === null || $this->states[$place]->rank() <= $known[0]->rank())) {
                $best[$day] = [$this->states[$place], $one];
            }
        }

        return array_values($best);
    }

    /**
     * @return list<Backup> newest first
     */
    private function good(): array
    {
        $good = [];
        foreach ($this->backups as $place => $one) {
            if ($this->states[$place]->isGood()) {
                array_unshift($good, $one);
            }
        }

        return $good;
    }
}
