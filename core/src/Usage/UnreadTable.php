<?php

declare(strict_types=1);

namespace Fulcrion\Core\Usage;

/**
 * A table that is still written, that was read, and is not any more.
 */
final readonly class UnreadTable
{
    /** So many days without a reader: a report of a month may be read in its last week only, but what is daily is missed by then. */
    public const UNREAD_DAYS = 14;

    /** Written within so many days it is still written. */
    public const WRITTEN_DAYS = 2;

    /**
     * @param  non-empty-list<string>  $writers fingerprints
     * @param  int  $lastReadAt start of the last day it was read, in Unix seconds
     */
    private function __construct(public string $table, public array $writers, public int $lastReadAt)
    {
    }

    /**
     * What was never read is left out: who reads it may be nobody we see.
     *
     * @param  list<TableTouch>  $touches
     * @param  int  $now as the clocks of the days show it
     * @return list<self> by the name of the table
     */
    public static function among(array $touches, int $now): array
    {
        $today = $now - $now % Days::DAY;
        $read = $written = [];
        foreach ($touches as $one) {
            if ($one->writes) {
                $written[$one->table][$one->statement] = $one->lastAt;
            } elseif ($one->reads) {
                // Who writes a table from itself does not read its results.
                $read[$one->table] = max($read[$one->table] ?? 0, $one->lastAt);
            }
        }
        ksort($written);
        $unread = [];
        foreach ($written as $table => $writers) {
            $still = array_keys(array_filter($writers, static fn (int $at): bool => $at >= $today - self::WRITTEN_DAYS * Days::DAY));
            if ($still !== [] && isset($read[$table]) && $read[$table] <= $today - self::UNREAD_DAYS * Days::DAY) {
                $unread[] = new self($table, array_map(strval(...), $still), $read[$table]);
            }
        }

        return $unread;
    }

    /** Whole days without a reader. */
    public function days(int $now): int
    {
        return intdiv($now - $now % Days::DAY - $this->lastReadAt, Days::DAY);
    }
}
