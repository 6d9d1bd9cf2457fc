<?php

declare(strict_types=1);

namespace Tests\Core\Sessions;

use Fulcrion\Core\Sessions\Deadlock;
use Fulcrion\Core\Sessions\DeadlockSide;
use Fulcrion\Core\Sessions\DefinitionLock;
use Fulcrion\Core\Sessions\LockChain;
use Fulcrion\Core\Sessions\LockChains;
use Fulcrion\Core\Sessions\LockWait;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Who waits for whom.
 */
final class LockChainsTest extends TestCase
{
    public function test_chains_begin_with_who_could_let_the_others_go_on(): void
    {
        // 3 holds; 5 waits for it; 6 waits for both; 8 wants the definition and waits for three of them, 9 behind it.
        $chains = LockChains::of([
            self::wait(6, 5, 14, 'g.t'), self::wait(6, 3, 14, 'g.t'), self::wait(5, 3, 15, 'g.t'),
            self::wait(8, 3, 13, 'g.t'), self::wait(8, 5, 13, 'g.t'), self::wait(9, 8, 3, 'g.u'), self::wait(21, 20, 99, 'g.v'),
        ]);
        self::assertSame(['3(5 6 8(9))', '20(21)'], array_map(self::told(...), $chains), 'longest waiting first');
        self::assertSame([5, 6, 8, 9], $chains[0]->blocked());
        self::assertSame(15 + 14 + 13 + 3, $chains[0]->waitedUs());
        self::assertSame(2, $chains[0]->depth());
        self::assertSame(['g.t', 'g.u'], $chains[0]->tables());
        self::assertNull($chains[0]->wait);
        self::assertSame([3, 'g.t', 15], [
            $chains[0]->behind[0]->wait?->blocking, $chains[0]->behind[0]->wait?->table, $chains[0]->behind[0]->wait?->waitedUs,
        ]);
        self::assertSame([], LockChains::of([]));
        self::assertSame([], LockChains::of([self::wait(4, 4)]), 'who waits for itself by two locks waits for nobody');
    }

    public function test_a_circle_is_a_chain_of_its_own(): void
    {
        $chains = LockChains::of([self::wait(1, 2), self::wait(2, 3), self::wait(3, 1), self::wait(7, 3), self::wait(9, 8)]);
        self::assertCount(2, $chains);
        self::assertTrue($chains[0]->circular);
        self::assertFalse($chains[1]->circular);
        self::assertSame('8(9)', self::told($chains[1]));
        $all = [$chains[0]->session, ...$chains[0]->blocked()];
        sort($all);
        self::assertSame([1, 2, 3, 7], $all);
    }

    public function test_everybody_who_waits_stands_in_one_chain_as_near_to_its_beginning_as_can_be(): void
    {
        $random = new Randomizer(new Mt19937(9));
        for ($world = 0; $world < 300; $world++) {
            $waits = [];
            for ($i = $random->getInt(0, 14); $i > 0; $i--) {
                $waits[] = self::wait($random->getInt(1, 9), $random->getInt(1, 9), $random->getInt(1, 50));
            }
            $for = $sessions = [];
            foreach ($waits as $wait) {
                if ($wait->waiting !== $wait->blocking) {
                    $for[$wait->waiting][] = $wait->blocking;
                    $sessions[$wait->waiting] = $sessions[$wait->blocking] = true;
                }
            }
            // Steps to the nearest session that waits for nobody.
            $steps = static function (int $session, array $seen = []) use (&$steps, $for): float {
                if (! isset($for[$session])) {
                    return 0.0;
                }
                $least = INF;
                foreach (in_array($session, $seen, true) ? [] : $for[$session] as $blocker) {
                    $least = min($least, 1 + $steps($blocker, [...$seen, $session]));
                }

                return $least;
            };
            $found = [];
            $walk = static function (LockChain $chain, int $depth, bool $circular) use (&$walk, &$found): void {
                $found[$chain->session][] = [$depth, $circular];
                foreach ($chain->behind as $one) {
                    self::assertSame($chain->session, $one->wait?->blocking);
                    self::assertSame($one->session, $one->wait->waiting);
                    $walk($one, $depth + 1, $circular);
                }
            };
            $chains = LockChains::of($waits);
            foreach ($chains as $chain) {
                $walk($chain, 0, $chain->circular);
            }
            self::assertEqualsCanonicalizing(array_keys($sessions), array_keys($found));
            foreach ($found as $session => $places) {
                self::assertCount(1, $places, 'each once');
                [$depth, $circular] = $places[0];
                self::assertSame(is_infinite($steps($session)), $circular, "session {$session}");
                if (! $circular) {
                    self::assertSame((int) $steps($session), $depth);
                }
            }
            $sizes = array_map(static fn (LockChain $one): int => count($one->blocked()), $chains);
            $falling = $sizes;
            rsort($falling);
            self::assertSame($falling, $sizes, 'those that hold up most first');
        }
    }

    #[TestWith(['SHARED_READ', true, 'EXCLUSIVE', false, true])]
    #[TestWith(['SHARED_WRITE', true, 'SHARED_NO_READ_WRITE', false, true])]
    #[TestWith(['SHARED_READ', true, 'SHARED_WRITE', false, false])]
    #[TestWith(['EXCLUSIVE', true, 'SHARED_READ', false, true])]
    #[TestWith(['EXCLUSIVE', false, 'SHARED_READ', false, true])]
    #[TestWith(['SHARED_READ', false, 'EXCLUSIVE', false, false])]
    #[TestWith(['SHARED_READ', true, 'SHARED_READ', true, false])]
    #[TestWith(['EXCLUSIVE', true, 'EXCLUSIVE', true, false])]
    public function test_who_wants_a_table_alone_waits_for_all_others_and_they_behind_it(
        string $held,
        bool $granted,
        string $wanted,
        bool $given,
        bool $waits,
    ): void {
        $locks = [new DefinitionLock(1, 's.t', $held, $granted, 90), new DefinitionLock(2, 's.t', $wanted, $given, 50)];
        $found = array_filter(DefinitionLock::waits($locks), static fn (LockWait $wait): bool => $wait->waiting === 2);
        self::assertCount($waits ? 1 : 0, $found);
        foreach ($found as $wait) {
            self::assertSame([1, 's.t', 'the definition', 50], [$wait->blocking, $wait->table, $wait->what, $wait->waitedUs]);
        }
        $elsewhere = [$locks[0], new DefinitionLock(2, 's.u', $wanted, $given, 50)];
        self::assertSame([], array_filter(DefinitionLock::waits($elsewhere), static fn (LockWait $one): bool => $one->waiting === 2));
    }

    public function test_who_came_before_an_alter_does_not_wait_for_it(): void
    {
        $waits = DefinitionLock::waits([
            new DefinitionLock(1, 's.t', 'SHARED_READ', true, 100),
            new DefinitionLock(2, 's.t', 'EXCLUSIVE', false, 50),
            new DefinitionLock(3, 's.t', 'SHARED_READ', false, 60),
            new DefinitionLock(4, 's.t', 'SHARED_READ', false, 40),
        ]);
        self::assertSame(['2>1', '4>2'], array_map(static fn (LockWait $one): string => "{$one->waiting}>{$one->blocking}", $waits));
    }

    public function test_the_last_deadlock_of_a_report_is_read_without_the_rows_it_prints(): void
    {
        $report = (string) file_get_contents(__DIR__.'/innodb-status.txt');
        $deadlock = Deadlock::last($report);
        self::assertNotNull($deadlock);
        self::assertMatchesRegularExpression('~^2026-11-29 \d\d:\d\d:\d\d$~', $deadlock->at);
        self::assertSame(['g.t'], $deadlock->tables());
        self::assertSame(
            [
                [11, 'root', 'UPDATE t SET v=v+20 WHERE id=1', 'g.t', 'PRIMARY', 'X', 2, true],
                [10, 'root', 'UPDATE t SET v=v+10 WHERE id=2', 'g.t', 'PRIMARY', 'X', 2, false],
            ],
            array_map(
                static fn (DeadlockSide $one): array => [
                    $one->session, $one->user, $one->sql, $one->table, $one->index, $one->mode, $one->rowLocks, $one->victim,
                ],
                $deadlock->sides,
            ),
        );
        self::assertStringNotContainsString('80000001', (string) json_encode($deadlock));
        self::assertNull(Deadlock::last((string) str_replace('LATEST DETECTED DEADLOCK', 'LATEST FOREIGN KEY ERROR', $report)));
        self::assertNull(Deadlock::last(''));
    }

    public function test_reports_in_other_words_are_read_as_far_as_they_go(): void
    {
        $of = static fn (string $thread, string $sql, string $lock): DeadlockSide => Deadlock::last(
            "LATEST DETECTED DEADLOCK\n------------------------\n2026-01-02  3:04:05 0x7f\n*** (1) TRANSACTION:\nTRANSACTION 27, ACTIVE 3 "
                ."sec\nLOCK WAIT 3 lock struct(s), heap size 1128, 12 row lock(s)\nMariaDB thread id 88, OS thread handle 14, query id 5 "
                ."{$thread}\n{$sql}\n*** WAITING FOR THIS LOCK TO BE GRANTED:\n{$lock}\n*** WE ROLL BACK TRANSACTION (2)\n------------\n",
        )?->sides[0] ?? self::fail('nothing was read');
        $row = 'RECORD LOCKS space id 5 page no 3 n bits 320 index `by_day` of table `odd ``name`.`t` trx id 27 lock_mode S waiting';
        $side = $of('10.0.0.7 10.0.0.7 loader Updating', "UPDATE t\nSET v = 1 -- *** (2)", $row);
        self::assertSame(
            [88, 'loader', "UPDATE t\nSET v = 1 -- *** (2)", 'odd `name.t', 'by_day', 'S', 12, false],
            [$side->session, $side->user, $side->sql, $side->table, $side->index, $side->mode, $side->rowLocks, $side->victim],
        );
        $table = $of('db.example loader', 'LOCK TABLES t WRITE', 'TABLE LOCK table `g`.`t` trx id 27 lock mode IX waiting');
        self::assertSame(['loader', 'g.t', '', 'IX'], [$table->user, $table->table, $table->index, $table->mode]);
        $unknown = $of('', '', 'something else');
        self::assertSame(['', '', '', ''], [$unknown->user, $unknown->sql, $unknown->table, $unknown->mode]);
    }

    private static function wait(int $waiting, int $blocking, int $us = 1, string $table = 's.t'): LockWait
    {
        return new LockWait($waiting, $blocking, $table, 'rows', $us);
    }

    /** As 1(2 3(4)). */
    private static function told(LockChain $chain): string
    {
        return $chain->session.($chain->behind === [] ? '' : '('.implode(' ', array_map(self::told(...), $chain->behind)).')');
    }
}
