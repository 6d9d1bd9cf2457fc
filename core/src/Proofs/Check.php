<?php

declare(strict_types=1);

namespace Fulcrion\Core\Proofs;

/**
 * Lines of a proof that hold what was read or tried against what is expected.
 */
final class Check
{
    /**
     * @param  string|null  $got null where it is not known, which is never what is expected
     * @return array{what: string, expected: string, got: string, holds: bool}
     */
    public static function line(string $what, string $expected, ?string $got): array
    {
        return ['what' => $what, 'expected' => $expected, 'got' => $got ?? 'not known', 'holds' => $got === $expected];
    }

    /**
     * @param  list<array{what: string, expected: string, got: string, holds: bool}>  $lines
     * @return int how many hold
     */
    public static function held(array $lines): int
    {
        return count(array_filter($lines, static fn (array $line): bool => $line['holds']));
    }
}
