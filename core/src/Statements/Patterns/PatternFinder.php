<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements\Patterns;

use Fulcrion\Core\Sql\StatementKind;
use Fulcrion\Core\Statistics\Spread;

/**
 * Finds, in runs of which the session and the order are known, statements that an application runs more often than it needs to.
 */
final readonly class PatternFinder
{
    /** Rows from which a read is a list that something could be done for each row of. */
    private const LIST_ROWS = 5;

    /** Runs after one list from which it is no chance. */
    private const FOLLOWERS = 5;

    /** Rows a lookup gives at most, by their mean. */
    private const LOOKUP_ROWS = 3.0;

    /** A pause this long ends what belongs to a list. */
    private const PAUSE_US = 1_000_000;

    private const POLLS = 8;

    /** Closer ones are work and no polling. */
    private const LEAST_INTERVAL_US = 50_000;

    /** Half of the intervals are this close to their median, as a share of it; a mean would fall for one stall of the network. */
    private const EVEN = 0.35;

    /** Share of polls that find nothing. */
    private const IN_VAIN = 0.7;

    private const PAIRS = 10;

    /** Share of the inserts that follow such a read. */
    private const PAIRED = 0.8;

    /**
     * @param  list<SessionRun>  $runs
     * @return list<Pattern>
     */
    public static function find(array $runs): array
    {
        $sessions = [];
        foreach ($runs as $run) {
            // What holds statements together is no statement of its own.
            if (StatementKind::ofNormalised($run->text) !== StatementKind::Session && ! self::isFrame($run->text)) {
                $sessions[$run->session][] = $run;
            }
        }
        foreach ($sessions as &$list) {
            usort($list, static fn (SessionRun $a, SessionRun $b): int => $a->order <=> $b->order);
        }

        return [...self::lookups($sessions), ...self::polling($sessions), ...self::readsBeforeInserts($sessions)];
    }

    /**
     * @param  array<array-key, non-empty-list<SessionRun>>  $sessions
     * @return list<Pattern>
     */
    private static function lookups(array $sessions): array
    {
        $rounds = [];
        foreach ($sessions as $list) {
            $lead = null;
            $followers = [];
            $lastUs = 0;
            foreach ($list as $run) {
                $isList = self::reads($run) && (int) $run->rowsReturned >= self::LIST_ROWS;
                if ($lead !== null && ($isList || $run->statement === $lead->statement || $run->startedUs - $lastUs > self::PAUSE_US)) {
                    self::close($rounds, $lead->statement, $followers);
                    $lead = null;
                    $followers = [];
                }
                if ($isList) {
                    $lead = $run;
                } elseif ($lead !== null && self::reads($run)) {
                    $followers[$run->statement][] = $run;
                }
                $lastUs = $run->endedUs();
            }
            if ($lead !== null) {
                self::close($rounds, $lead->statement, $followers);
            }
        }
        $found = [];
        foreach ($rounds as $parent => $children) {
            foreach ($children as $statement => [$count, $times, $us]) {
                $found[] = new Pattern(PatternKind::RepeatedLookup, (string) $parent, (string) $statement, $count, $times, $us);
            }
        }

        return $found;
    }

    /**
     * @param  array<array-key, array<array-key, array{int, int, int}>>  $rounds
     * @param  array<array-key, non-empty-list<SessionRun>>  $followers by statement
     */
    private static function close(array &$rounds, string $parent, array $followers): void
    {
        foreach ($followers as $statement => $runs) {
            $times = count($runs);
            $rows = array_sum(array_map(static fn (SessionRun $run): int => (int) $run->rowsReturned, $runs));
            // The same question with the same value is asked for another reason than the rows of a list.
            $values = count(array_unique(array_map(static fn (SessionRun $run): string => $run->exact, $runs)));
            if ($times < self::FOLLOWERS || $rows / $times > self::LOOKUP_ROWS || $values * 2 < $times) {
                continue;
            }
            $us = array_sum(array_map(static fn (SessionRun $run): int => $run->durationUs, $runs));
            [$count, $all, $sum] = $rounds[$parent][$statement] ?? [0, 0, 0];
            $rounds[$parent][$statement] = [$count + 1, $all + $times, $sum + $us];
        }
    }

    /**
     * @param  array<array-key, non-empty-list<SessionRun>>  $sessions
     * @return list<Pattern>
     */
    private static function polling(array $sessions): array
    {
        $found = [];
        foreach ($sessions as $list) {
            $same = [];
            foreach ($list as $run) {
                if (self::reads($run)) {
                    $same["{$run->statement}|{$run->exact}"][] = $run;
                }
            }
            foreach ($same as $runs) {
                $interval = count($runs) < self::POLLS ? null : self::evenInterval($runs);
                $vain = count(array_filter($runs, static fn (SessionRun $run): bool => $run->rowsReturned === 0));
                if ($interval !== null && $vain >= self::IN_VAIN * count($runs)) {
                    $us = array_sum(array_map(static fn (SessionRun $run): int => $run->durationUs, $runs));
                    $found[] = new Pattern(PatternKind::Polling, null, $runs[0]->statement, 1, count($runs), $us, $interval);
                }
            }
        }

        return $found;
    }

    /**
     * @param  non-empty-list<SessionRun>  $runs in order
     * @return int|null their median; null where they are not even
     */
    private static function evenInterval(array $runs): ?int
    {
        $gaps = [];
        for ($i = 1; $i < count($runs); $i++) {
            $gaps[] = $runs[$i]->startedUs - $runs[$i - 1]->startedUs;
        }
        $usual = Spread::median($gaps);
        if ($usual < self::LEAST_INTERVAL_US) {
            return null;
        }
        $off = Spread::median(array_map(static fn (int $gap): float => abs($gap - $usual), $gaps));

        return $off <= self::EVEN * $usual ? (int) round($usual) : null;
    }

    /**
     * @param  array<array-key, non-empty-list<SessionRun>>  $sessions
     * @return list<Pattern>
     */
    private static function readsBeforeInserts(array $sessions): array
    {
        /** @var array<string, array{string, string, int, int}> $pairs */
        $pairs = [];
        $inserts = [];
        foreach ($sessions as $list) {
            foreach ($list as $i => $run) {
                $table = self::insertsInto($run->text);
                if ($table === null) {
                    continue;
                }
                $inserts[$run->statement] = ($inserts[$run->statement] ?? 0) + 1;
                $before = $list[$i - 1] ?? null;
                if ($before === null || ! self::reads($before) || (int) $before->rowsReturned > 1 || ! self::readsFrom($before, $table)) {
                    continue;
                }
                [, , $times, $us] = $pairs["{$before->statement}|{$run->statement}"] ?? ['', '', 0, 0];
                $pairs["{$before->statement}|{$run->statement}"] = [
                    $before->statement, $run->statement, $times + 1, $us + $before->durationUs,
                ];
            }
        }
        $found = [];
        foreach ($pairs as [$read, $insert, $times, $us]) {
            if ($times >= self::PAIRS && $times >= self::PAIRED * $inserts[$insert]) {
                $found[] = new Pattern(PatternKind::ReadBeforeInsert, $insert, $read, $times, $times, $us);
            }
        }

        return $found;
    }

    private static function reads(SessionRun $run): bool
    {
        return preg_match('~^\(?\s*(SELECT|WITH)\b~i', $run->text) === 1;
    }

    private static function isFrame(string $text): bool
    {
        return preg_match('~^(PREPARE|DEALLOCATE|SHOW WARNINGS)\b~i', $text) === 1;
    }

    private static function insertsInto(string $text): ?string
    {
        return preg_match('~^INSERT\b[^(]*?\bINTO\s+([\w.`$]+)~i', $text, $match) === 1 ? self::bare($match[1]) : null;
    }

    private static function readsFrom(SessionRun $run, string $table): bool
    {
        preg_match_all('~\b(?:FROM|JOIN)\s+([\w.`$]+)~i', $run->text, $matches);

        return in_array($table, array_map(self::bare(...), $matches[1]), true);
    }

    private static function bare(string $path): string
    {
        return strtolower(str_replace('`', '', substr((string) strrchr(".{$path}", '.'), 1)));
    }
}
