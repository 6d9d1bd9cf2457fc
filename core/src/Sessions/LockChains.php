<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sessions;

/**
 * Who waits for whom, put together to chains that begin with those who could let the others go on.
 */
final readonly class LockChains
{
    /**
     * Who waits for several stands behind the one nearest to the beginning: that one has to go first in any case.
     *
     * @param  list<LockWait>  $waits
     * @return list<LockChain> those that hold up most first
     */
    public static function of(array $waits): array
    {
        $for = $sessions = [];
        foreach ($waits as $wait) {
            if ($wait->waiting !== $wait->blocking) {
                $for[$wait->waiting][$wait->blocking] ??= $wait;
                $sessions[$wait->waiting] = $sessions[$wait->blocking] = true;
            }
        }
        $roots = array_keys(array_diff_key($sessions, $for));
        sort($roots);
        $behind = $placed = [];
        self::place($roots, $for, $behind, $placed);
        $circular = [];
        // Who is not reached waits in a circle, or behind one.
        foreach (array_keys($for) as $session) {
            if (! isset($placed[$session])) {
                $begin = self::inCircle($session, $for);
                $roots[] = $begin;
                $circular[$begin] = true;
                self::place([$begin], $for, $behind, $placed);
            }
        }
        $chains = array_map(
            static fn (int $root): LockChain => self::chain($root, null, $behind, isset($circular[$root])),
            $roots,
        );
        usort($chains, static fn (LockChain $a, LockChain $b): int => [count($b->blocked()), $b->waitedUs(), $a->session] <=> [
            count($a->blocked()),
            $a->waitedUs(),
            $b->session,
        ]);

        return $chains;
    }

    /**
     * @param  list<int>  $from
     * @param  array<int, array<int, LockWait>>  $for
     * @param  array<int, list<LockWait>>  $behind
     * @param  array<int, true>  $placed
     */
    private static function place(array $from, array $for, array &$behind, array &$placed): void
    {
        foreach ($from as $session) {
            $placed[$session] = true;
        }
        while ($from !== []) {
            $next = [];
            foreach ($for as $waiting => $blockers) {
                foreach ($from as $session) {
                    if (! isset($placed[$waiting]) && isset($blockers[$session])) {
                        $behind[$session][] = $blockers[$session];
                        $placed[$waiting] = true;
                        $next[] = $waiting;
                    }
                }
            }
            $from = $next;
        }
    }

    /**
     * @param  array<int, array<int, LockWait>>  $for
     */
    private static function inCircle(int $session, array $for): int
    {
        $seen = [];
        while (! isset($seen[$session])) {
            $seen[$session] = true;
            $session = (int) array_key_first($for[$session] ?? [$session => true]);
        }

        return $session;
    }

    /**
     * @param  array<int, list<LockWait>>  $behind
     */
    private static function chain(int $session, ?LockWait $wait, array $behind, bool $circular): LockChain
    {
        $own = $behind[$session] ?? [];
        usort($own, static fn (LockWait $a, LockWait $b): int => [$b->waitedUs, $a->waiting] <=> [$a->waitedUs, $b->waiting]);

        return new LockChain(
            $session,
            $wait,
            array_map(static fn (LockWait $one): LockChain => self::chain($one->waiting, $one, $behind, false), $own),
            $circular,
        );
    }
}
