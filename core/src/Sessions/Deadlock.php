<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sessions;

/**
 * Transactions that waited for each other, until the server took one of them back.
 */
final readonly class Deadlock
{
    /**
     * @param  string  $at as the server wrote it, in its own time zone
     * @param  list<DeadlockSide>  $sides
     */
    public function __construct(public string $at, public array $sides)
    {
    }

    /**
     * @return list<string> schema.table, each once
     */
    public function tables(): array
    {
        return array_values(array_unique(array_diff(array_map(static fn (DeadlockSide $one): string => $one->table, $this->sides), [''])));
    }

    /**
     * The last one of the report of an engine (MariaDB Server Documentation, "SHOW ENGINE INNODB STATUS"); null where it
     * knows of none. Records that are printed there are data of tables and are left out.
     */
    public static function last(string $report): ?self
    {
        if (
            preg_match(
                '~^LATEST DETECTED DEADLOCK\R-+\R(\d{4}-\d\d-\d\d +\d{1,2}:\d\d:\d\d)[^\n]*\R(.*?)^-{6,}\R~ms',
                $report,
                $section,
            ) !== 1
        ) {
            return null;
        }
        $victim = preg_match('~^\*\*\* WE ROLL BACK TRANSACTION \((\d+)\)~m', $section[2], $found) === 1 ? (int) $found[1] : 0;
        $parts = preg_split('~^\*\*\* \((\d+)\) TRANSACTION:\R~m', $section[2], -1, PREG_SPLIT_DELIM_CAPTURE);
        $parts = $parts === false ? [] : $parts;
        $sides = [];
        for ($i = 1; $i + 1 < count($parts); $i += 2) {
            $sides[] = self::side($parts[$i + 1], (int) $parts[$i] === $victim);
        }

        return $sides === [] ? null : new self((string) preg_replace('~\s+~', ' ', $section[1]), $sides);
    }

    private static function side(string $text, bool $victim): DeadlockSide
    {
        preg_match('~^(?:MariaDB|MySQL) thread id (\d+), OS thread handle \S+, query id \d+ (.*)$~m', $text, $thread);
        // Behind the host and its address stand the account and what it was doing.
        $words = explode(' ', (string) preg_replace('~\s+~', ' ', trim($thread[2] ?? '')));
        $at = preg_match('~^[\d.:a-f]+$~i', $words[1] ?? '') === 1 ? 2 : 1;
        preg_match('~^(?:MariaDB|MySQL) thread id [^\n]*\R(.*?)(?=^\*\*\* |\z)~ms', $text, $sql);
        preg_match(
            '~^\*\*\* (?:\(\d+\) )?WAITING FOR THIS LOCK TO BE GRANTED:\R[^\n]*?(?:index (\S+) of table|TABLE LOCK table) '
                .'`((?:[^`]|``)+)`\.`((?:[^`]|``)+)` trx id \d+ lock[_ ]mode (\S+)~m',
            $text,
            $lock,
        );
        preg_match('~(\d+) row lock\(s\)~', $text, $rows);
        $name = static fn (string $quoted): string => str_replace('``', '`', $quoted);

        return new DeadlockSide(
            (int) ($thread[1] ?? 0),
            $words[$at] ?? '',
            trim($sql[1] ?? ''),
            isset($lock[3]) ? $name($lock[2]).'.'.$name($lock[3]) : '',
            trim($lock[1] ?? '', '`'),
            $lock[4] ?? '',
            (int) ($rows[1] ?? 0),
            $victim,
        );
    }
}
