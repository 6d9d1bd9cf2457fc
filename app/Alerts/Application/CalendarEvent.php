<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use DateTimeImmutable;
use DateTimeZone;
use InvalidArgumentException;
use Sabre\VObject\Component\VCalendar;
use Sabre\VObject\Component\VEvent;
use Sabre\VObject\Property;
use Sabre\VObject\Property\ICalendar\DateTime;
use Sabre\VObject\Property\ICalendar\Duration;
use Sabre\VObject\Reader;
use Sabre\VObject\Recur\EventIterator;
use Throwable;

/**
 * An event of a calendar (iCalendar, RFC 5545): once, or again and again by the clock of its place.
 */
final readonly class CalendarEvent
{
    private const LONGEST_SECONDS = 31 * 86_400;

    private const OLDEST_SECONDS = 10 * 366 * 86_400;

    private const LONGEST = 8_000;

    private const MOST = 500;

    /** Times that are gone through at most before one that is asked for. */
    private const STEPS = 20_000;

    private function __construct(private VEvent $event)
    {
    }

    /** Of what was taken before. */
    public static function read(string $text): self
    {
        return new self(self::events($text)[0] ?? throw new InvalidArgumentException('No event stands there.'));
    }

    public static function make(
        string $uid,
        string $reason,
        int $from,
        int $to,
        DateTimeZone $zone,
        string $repeats,
        int $now,
    ): self {
        $at = static fn (int $second): DateTimeImmutable => (new DateTimeImmutable('@'.$second))->setTimezone($zone);

        return new self(new VEvent(self::calendar(), 'VEVENT', [
            'UID' => $uid, 'DTSTAMP' => new DateTimeImmutable('@'.$now), 'DTSTART' => $at($from), 'DTEND' => $at($to), 'SUMMARY' => $reason,
        ] + ($repeats === '' ? [] : ['RRULE' => 'FREQ='.strtoupper($repeats)])));
    }

    /**
     * All events of a calendar that can be kept.
     *
     * @return array{list<self>, list<string>} events, and what is wrong with the others
     *
     * @throws InvalidArgumentException where it is no calendar
     */
    public static function all(string $text, int $now): array
    {
        $events = $complaints = [];
        foreach (self::events($text) as $place => $event) {
            $complaint = self::complaint($event, $now);
            if ($complaint === null) {
                $events[] = new self($event);
            } else {
                $complaints[] = 'Event '.($place + 1).' is left out: '.$complaint;
            }
        }

        return [$events, $complaints];
    }

    /**
     * @return list<VEvent>
     */
    private static function events(string $text): array
    {
        try {
            $calendar = Reader::read($text);
        } catch (Throwable $error) {
            throw new InvalidArgumentException('This is no calendar that can be read: '.mb_strcut($error->getMessage(), 0, 200));
        }
        if (! $calendar instanceof VCalendar) {
            throw new InvalidArgumentException('This is no calendar: it does not begin with BEGIN:VCALENDAR.');
        }
        $events = array_values(array_filter($calendar->select('VEVENT'), static fn (mixed $one): bool => $one instanceof VEvent));
        if (count($events) > self::MOST) {
            throw new InvalidArgumentException('It has more than '.self::MOST.' events. Export only those of the work on clusters.');
        }

        return $events;
    }

    private static function complaint(VEvent $event, int $now): ?string
    {
        try {
            $one = new self($event);
            if ($one->moment('DTSTART') === null) {
                return 'it does not say when it begins.';
            }
            $from = $one->from();
            $rule = $one->word('RRULE');

            return match (true) {
                strlen($one->text()) > self::LONGEST => 'it is longer than '.self::LONGEST.' characters.',
                $one->seconds() <= 0 => 'it ends when it begins.',
                $one->seconds() > self::LONGEST_SECONDS => 'it is longer than a month.',
                $rule !== '' && ! self::isKept($rule) => "it comes again by {$rule}, which is not taken: by days, weeks, months or "
                    .'years, on days of the week or of the month up to the 28th.',
                $one->word('RECURRENCE-ID') !== '' => 'it changes one time of another event, which is not taken.',
                $rule !== '' && $from < $now - self::OLDEST_SECONDS => 'it began more than ten years ago.',
                $from > $now + self::OLDEST_SECONDS => 'it begins in more than ten years.',
                $rule === '' && $from + $one->seconds() <= $now => 'it is over.',
                $one->next($now) === null => 'it does not come any more.',
                default => null,
            };
        } catch (Throwable $error) {
            return mb_strcut($error->getMessage(), 0, 200);
        }
    }

    /** Rules that are gone through in a while: one may also name a day that never comes. */
    private static function isKept(string $rule): bool
    {
        $count = '(;(INTERVAL|COUNT)=[1-9]\d{0,3}|;UNTIL=\d{8}(T\d{6}Z?)?|;WKST=[A-Z]{2})*';
        $day = '[+-]?[1-5]?(MO|TU|WE|TH|FR|SA|SU)';
        $days = "(;BYDAY={$day}(,{$day})*)?";
        $dates = '(;BYMONTHDAY=([1-9]|1\d|2[0-8])(,([1-9]|1\d|2[0-8]))*)?';

        $kept = "~^FREQ=(DAILY{$count}|WEEKLY{$count}{$days}|MONTHLY{$count}({$days}|{$dates})|YEARLY{$count}){$count}$~";

        return preg_match($kept, $rule) === 1;
    }

    public function from(): int
    {
        return $this->moment('DTSTART')?->getTimestamp() ?? 0;
    }

    public function uid(): string
    {
        return mb_strcut($this->word('UID'), 0, 190);
    }

    public function reason(): string
    {
        $said = mb_strcut($this->word('SUMMARY'), 0, 300);

        return $said === '' ? 'work' : $said;
    }

    public function isRepeated(): bool
    {
        return $this->word('RRULE') !== '';
    }

    /** How it comes again, in a word. */
    public function repeats(): string
    {
        $rule = $this->word('RRULE');

        return match (true) {
            $rule === '' => 'once',
            $rule === 'FREQ=DAILY' => 'every day',
            $rule === 'FREQ=WEEKLY' => 'every week',
            default => 'by '.$rule,
        };
    }

    /** Whether it goes on at a moment. */
    public function covers(int $at): bool
    {
        $next = $this->next($at);

        return $next !== null && $next[0] <= $at;
    }

    /**
     * The time that goes on at a moment, or else the next one.
     *
     * @return array{int, int}|null first second and first second after it; null where none comes any more
     */
    public function next(int $at): ?array
    {
        if (! $this->isRepeated()) {
            $to = $this->from() + $this->seconds();

            return $to > $at ? [$this->from(), $to] : null;
        }
        $times = new EventIterator([$this->event], null, new DateTimeZone('UTC'));
        for ($i = 0; $i < self::STEPS && $times->valid(); $i++) {
            $from = $times->getDtStart()->getTimestamp();
            $to = $times->getDtEnd()->getTimestamp();
            if ($to > $at) {
                return [$from, $to];
            }
            $times->next();
        }

        return null;
    }

    /** As a calendar of one event. */
    public function text(): string
    {
        $calendar = self::calendar();
        $calendar->add(clone $this->event);

        return $calendar->serialize();
    }

    /**
     * @param  list<self>  $events
     */
    public static function together(array $events): string
    {
        $calendar = self::calendar();
        foreach ($events as $one) {
            $calendar->add(clone $one->event);
        }

        return $calendar->serialize();
    }

    private function seconds(): int
    {
        $end = $this->moment('DTEND');
        if ($end !== null) {
            return $end->getTimestamp() - $this->from();
        }
        $lasts = $this->property('DURATION');
        if ($lasts instanceof Duration) {
            return ($this->moment('DTSTART')?->add($lasts->getDateInterval())->getTimestamp() ?? 0) - $this->from();
        }
        $start = $this->property('DTSTART');

        // A day where it says no hour (RFC 5545, 3.6.1).
        return $start instanceof DateTime && $start->hasTime() ? 0 : 86_400;
    }

    private function moment(string $name): ?DateTimeImmutable
    {
        $property = $this->property($name);

        return $property instanceof DateTime ? $property->getDateTime(new DateTimeZone('UTC')) : null;
    }

    private function word(string $name): string
    {
        return (string) $this->property($name)?->getValue();
    }

    private function property(string $name): ?Property
    {
        $found = array_values($this->event->select($name))[0] ?? null;

        return $found instanceof Property ? $found : null;
    }

    private static function calendar(): VCalendar
    {
        return new VCalendar(['PRODID' => '-//Fulcrion//Silences//EN']);
    }
}
