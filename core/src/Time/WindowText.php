<?php

declare(strict_types=1);

namespace Fulcrion\Core\Time;

use DateTimeImmutable;
use DateTimeZone;
use InvalidArgumentException;

/**
 * Reads the windows people type: "last 24 hours", "yesterday 06:00-09:00", "monday", "2026-11-20",
 * "2026-11-20 06:00-09:00", "2026-11-18 22:00 to 2026-11-19 04:00".
 */
final class WindowText
{
    private const UNITS = ['minute' => 60, 'hour' => 3600, 'day' => 86_400, 'week' => 604_800];

    private const LONGEST = 400 * 86_400;

    private const CLOCK = '\d{1,2}(?::\d\d)?';

    /**
     * @param  int  $now Unix seconds
     * @throws InvalidArgumentException with a text for the person who typed it
     */
    public static function parse(string $text, int $now, DateTimeZone $zone): Window
    {
        $text = strtolower(trim((string) preg_replace('~[\s+]+~', ' ', str_replace(['–', '—', '~'], '-', $text))));
        if (preg_match('~^last (?:(\d{1,4}) )?(minute|hour|day|week)s?$~', $text, $m) === 1) {
            $seconds = max(1, (int) ($m[1] === '' ? 1 : $m[1])) * self::UNITS[$m[2]];

            // What begins in this very second is part of it.
            return self::checked($now - $seconds, $now + 1);
        }
        if (preg_match('~^next (?:(\d{1,4}) )?(minute|hour|day|week)s?$~', $text, $m) === 1) {
            return self::checked($now, $now + max(1, (int) ($m[1] === '' ? 1 : $m[1])) * self::UNITS[$m[2]]);
        }
        $here = (new DateTimeImmutable('@'.$now))->setTimezone($zone);
        if (preg_match('~^(.+?) to (.+)$~', $text, $m) === 1) {
            $from = self::moment($m[1], $here, false);
            $to = self::moment($m[2], $here, true);
            if ($from !== null && $to !== null) {
                return self::checked($from->getTimestamp(), $to->getTimestamp());
            }
        } elseif (
            preg_match('~^(?:(.+?) )?('.self::CLOCK.') ?- ?('.self::CLOCK.')$~', $text, $m) === 1 &&
            ($day = self::day($m[1] === '' ? 'today' : $m[1], $here)) !== null
        ) {
            $from = self::at($day, $m[2]);
            $to = self::at($day, $m[3]);
            if ($from !== null && $to !== null) {
                // 22:00-04:00 reaches into the next morning.
                return self::checked($from->getTimestamp(), ($to <= $from ? $to->modify('+1 day') : $to)->getTimestamp());
            }
        } elseif (($day = self::day($text, $here)) !== null) {
            $end = $day->modify('+1 day')->getTimestamp();

            return self::checked($day->getTimestamp(), $text === 'today' ? max($day->getTimestamp() + 300, min($end, $now)) : $end);
        }

        throw new InvalidArgumentException(
            "\"{$text}\" is not a window. Try: last 24 hours, yesterday 06:00-09:00, monday, 2026-11-20 06:00-09:00, or 2026-11-18 "
                .'22:00 to 2026-11-19 04:00.',
        );
    }

    /**
     * A moment as people type it: "monday 08:40", "yesterday 11:00", "08:40", "2026-11-23 08:40" or "now". A weekday is the last one that
     * has been.
     *
     * @param  int  $now Unix seconds
     * @return int Unix seconds
     *
     * @throws InvalidArgumentException with a text for the person who typed it
     */
    public static function instant(string $text, int $now, DateTimeZone $zone): int
    {
        $text = strtolower(trim((string) preg_replace('~[\s+]+~', ' ', $text)));
        $here = (new DateTimeImmutable('@'.$now))->setTimezone($zone);
        $at = preg_match('~^'.self::CLOCK.'$~', $text) === 1 ? self::at($here->setTime(0, 0), $text) : self::moment($text, $here, false);
        if ($at === null) {
            throw new InvalidArgumentException("\"{$text}\" is not a moment. Try: monday 08:40, yesterday 11:00, 08:40, or 2026-11-20 "
                .'06:00.');
        }
        if ($at->getTimestamp() > $now && preg_match('~^[a-z]~', $text) === 1 && ! str_starts_with($text, 'to')) {
            $at = $at->modify('-7 days');
        }
        if ($at->getTimestamp() > $now) {
            throw new InvalidArgumentException('That moment has not been yet.');
        }

        return max(0, $at->getTimestamp());
    }

    /** The form that parse() reads back, for fixed windows. */
    public static function format(Window $window, DateTimeZone $zone): string
    {
        $from = (new DateTimeImmutable('@'.$window->from))->setTimezone($zone);
        $to = (new DateTimeImmutable('@'.$window->to))->setTimezone($zone);

        return $from->format('Y-m-d H:i').
            ($from->format('Y-m-d') === $to->format('Y-m-d') ? '-'.$to->format('H:i') : ' to '.$to->format('Y-m-d H:i'));
    }

    private static function day(string $text, DateTimeImmutable $here): ?DateTimeImmutable
    {
        $midnight = $here->setTime(0, 0);
        if ($text === 'today') {
            return $midnight;
        }
        if ($text === 'yesterday') {
            return $midnight->modify('-1 day');
        }
        if ($text === 'tomorrow') {
            return $midnight->modify('+1 day');
        }
        if (preg_match('~^(?:last )?(mon|tues?|wed(?:nes)?|thu(?:rs)?|fri|sat(?:ur)?|sun)(?:day)?$~', $text, $m) === 1) {
            $day = $midnight->modify('last '.substr($m[1], 0, 3));

            return $here->format('D') === ucfirst(substr($m[1], 0, 3)) && ! str_starts_with($text, 'last') ? $midnight : $day;
        }
        if (preg_match('~^(\d{4})-(\d\d)-(\d\d)$~', $text, $m) === 1 && checkdate((int) $m[2], (int) $m[3], (int) $m[1])) {
            return $midnight->setDate((int) $m[1], (int) $m[2], (int) $m[3])->setTime(0, 0);
        }

        return null;
    }

    private static function at(DateTimeImmutable $day, string $clock): ?DateTimeImmutable
    {
        [$hour, $minute] = [...array_map('intval', explode(':', $clock)), 0];

        return $hour > 24 || $minute > 59 || ($hour === 24 && $minute > 0) ? null : $day->setTime($hour, $minute);
    }

    private static function moment(string $text, DateTimeImmutable $here, bool $isEnd): ?DateTimeImmutable
    {
        if ($text === 'now') {
            return $here;
        }
        if (preg_match('~^(.+?)(?: |t)('.self::CLOCK.')$~', $text, $m) === 1 && ($day = self::day($m[1], $here)) !== null) {
            return self::at($day, $m[2]);
        }
        $day = self::day($text, $here);

        return $isEnd ? $day?->modify('+1 day') : $day;
    }

    private static function checked(int $from, int $to): Window
    {
        if ($from >= $to) {
            throw new InvalidArgumentException('The window ends before it begins.');
        }
        if ($to - $from > self::LONGEST) {
            throw new InvalidArgumentException('A window spans 400 days at most.');
        }
        if ($from < 0) {
            throw new InvalidArgumentException('The window begins before 1970.');
        }

        return Window::around($from, $to);
    }
}
