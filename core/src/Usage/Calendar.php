<?php

declare(strict_types=1);

namespace Fulcrion\Core\Usage;

use DateTimeImmutable;
use DateTimeZone;

/**
 * Days as the clocks of a time zone count them. A day is named by its date, which is written as the seconds from 1970-01-01 to it where
 * every day has 24 hours; how long it really was, and when it began, is what this says. Zones and their changes: IANA Time Zone Database.
 */
final readonly class Calendar
{
    /** A day of use is closed so long after it is over. */
    public const CLOSED_AFTER_SECONDS = 3_600;

    public function __construct(public DateTimeZone $zone)
    {
    }

    public static function utc(): self
    {
        return new self(new DateTimeZone('UTC'));
    }

    public function isUtc(): bool
    {
        return $this->zone->getName() === 'UTC';
    }

    /** What clocks show at a moment, in seconds since they showed 1970-01-01 00:00. */
    public function shown(int $at): int
    {
        return $at + $this->zone->getOffset(new DateTimeImmutable("@{$at}"));
    }

    /** The date a moment lies in. */
    public function day(int $at): int
    {
        return Days::start($this->shown($at));
    }

    /** The first moment of a date; where clocks skip midnight, the one after it. */
    public function begin(int $day): int
    {
        return (new DateTimeImmutable(gmdate('Y-m-d', $day), $this->zone))->getTimestamp();
    }

    /** The moment a date is over. */
    public function end(int $day): int
    {
        return $this->begin($day + Days::DAY);
    }

    /**
     * @return array{int, int} the first moment of some days, and the one they are over
     */
    public function span(Days $days): array
    {
        return [$this->begin($days->from), $this->begin($days->to)];
    }

    /**
     * @return array{int, int} the first moment of the month a moment lies in, and the one it is over
     */
    public function month(int $at): array
    {
        return $this->span(Days::month(gmdate('Y-m', $this->shown($at))));
    }

    /**
     * By how much clocks are ahead of UTC, and since when.
     *
     * @return non-empty-array<int, int> seconds by the moment they hold from, of all that hold between two moments
     */
    public function offsets(int $from, int $to): array
    {
        $offsets = [$from => $this->shown($from) - $from];
        foreach ($this->zone->getTransitions($from, $to) as $change) {
            $offsets[$change['ts']] = $change['offset'];
        }
        ksort($offsets);

        return $offsets;
    }
}
