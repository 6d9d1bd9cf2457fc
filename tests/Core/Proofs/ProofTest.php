<?php

declare(strict_types=1);

namespace Tests\Core\Proofs;

use Fulcrion\Core\Proofs\Measured;
use Fulcrion\Core\Proofs\Proof;
use Fulcrion\Core\Proofs\ProofLine;
use Fulcrion\Core\Proofs\RowsDigest;
use Fulcrion\Core\Statistics\MannWhitney;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class ProofTest extends TestCase
{
    public function test_what_failed_differs_or_got_worse_comes_first_and_is_said(): void
    {
        $proof = new Proof([
            $this->line('a', 100, 10),
            $this->line('b', 100, 150),
            $this->line('c', 50, 50, 'x', 'y'),
            new ProofLine('d', 'D', 1, Measured::failed('no table'), Measured::failed('no table')),
        ]);
        self::assertSame(['d', 'c', 'b', 'a'], array_map(static fn (ProofLine $line): string => $line->statement, $proof->lines));
        self::assertFalse($proof->holds());
        self::assertSame(250, $proof->sum(false)['us'], 'what failed counts for neither side');
        self::assertStringContainsString('1 got worse; the results of 1 differ; 1 failed', $proof->sentence());
        $good = new Proof([$this->line('a', 100, 10)]);
        self::assertTrue($good->holds());
        self::assertSame(10.0, $good->factor());
        self::assertFalse((new Proof([]))->holds(), 'nothing compared is no proof');
        self::assertEquals($good->lines[0]->before, Measured::fromArray($good->lines[0]->before->toArray()));
    }

    public function test_writes_stand_for_themselves_and_scatter_is_no_loss(): void
    {
        // Cold 900; of the further the least.
        $once = Measured::wrote([900, 40, 10, 30, 20], 3);
        self::assertSame([900, 10, 10, 3, true], [$once->coldUs, $once->warmUs, $once->us(), $once->rows, $once->isWrite]);
        self::assertSame(7, Measured::wrote([7], 1)->warmUs);
        $write = static fn (int $before, int $after, int $rows = 1): ProofLine => new ProofLine(
            'w',
            'INSERT',
            5.0,
            Measured::wrote([999, $before], 1),
            Measured::wrote([999, $after], $rows),
        );
        $proof = new Proof([$this->line('a', 100, 10), $write(40, 50)]);
        self::assertSame([100, 10, 100], [$proof->sum(false)['us'], $proof->sum(true)['us'], $proof->sum(true)['bytesRead']]);
        self::assertSame(10.0, $proof->factor());
        self::assertTrue($proof->holds());
        self::assertStringStartsWith('1 statement took 100 µs', $proof->sentence());
        self::assertStringEndsWith('; 1 write took 40 µs on a copy and now takes 50 µs (measured)', $proof->sentence());
        self::assertSame(
            '2 writes took 80 µs on a copy and now take 100 µs (measured)',
            (new Proof([$write(40, 50), $write(40, 50)]))->sentence(),
        );
        self::assertSame(
            [false, false, true],
            [$write(100, 100)->isWorse(), $write(100, 149)->isWorse(), $write(100, 150)->isWorse()],
        );
        self::assertFalse((new Proof([$write(40, 40, 2)]))->holds(), 'another number of rows was written');
        self::assertEquals($once, Measured::fromArray($once->toArray()));
        $old = $once->toArray();
        unset($old['isWrite']);
        self::assertFalse(Measured::fromArray($old)->isWrite, 'what was kept before knows no writes');
    }

    public function test_digests_do_not_mind_the_order_of_rows_nor_of_sums(): void
    {
        $digest = static function (array $rows): string {
            $d = new RowsDigest();
            array_map($d->add(...), $rows);

            return $d->text();
        };
        self::assertSame($digest([[1, 'a'], [2, 'b']]), $digest([[2, 'b'], [1, 'a']]));
        self::assertNotSame($digest([[1, 'a']]), $digest([[1, 'a'], [1, 'a']]));
        self::assertNotSame($digest([[1, null]]), $digest([[1, '']]));
        self::assertNotSame($digest([['ab', 'c']]), $digest([['a', 'bc']]));
        $random = new Randomizer(new Mt19937(2));
        for ($i = 0; $i < 300; $i++) {
            $values = array_map(static fn (): float => $random->getInt(0, 1000) / 40, range(1, $random->getInt(2, 64)));
            $mean = static fn (array $list): float => array_sum($list) / count($list);
            self::assertSame($digest([[$mean($values)]]), $digest([[$mean($random->shuffleArray($values))]]));
        }
        self::assertNotSame($digest([[1.0]]), $digest([[1.00001]]));
    }

    public function test_ranks_are_tested_as_worked_by_hand(): void
    {
        // Three below three: U is 9 of 9; mean 4.5, variance 5.25, z = (4.5 - 0.5) / 2.2913.
        $test = MannWhitney::of([1 => 1, 2 => 1, 3 => 1], [4 => 1, 5 => 1, 6 => 1]);
        self::assertSame(1.0, $test->longer);
        self::assertEqualsWithDelta(1.7457, $test->z, 0.0001);
        self::assertEqualsWithDelta(0.0809, $test->p, 0.0002);
        self::assertSame('too few executions', $test->verdict());
        // With ties: bins 1 and 2 hold (6, 4) and (4, 6); U = 4*3 + 6*(6+2) = 60, ties 2*(990), variance 100/12*(21-1980/380).
        $tied = MannWhitney::of([1 => 6, 2 => 4], [1 => 4, 2 => 6]);
        self::assertSame(0.6, $tied->longer);
        self::assertEqualsWithDelta(9.5 / sqrt((100 / 12) * (21 - 1980 / 380)), $tied->z, 1e-9);
        self::assertSame('no difference to be seen', $tied->verdict());
        self::assertSame('better', MannWhitney::of([50 => 100, 60 => 100], [10 => 12])->verdict());
        self::assertSame('worse', MannWhitney::of([10 => 200], [11 => 30])->verdict());
        self::assertSame(1.0, MannWhitney::of([], [1 => 5])->p);
    }

    private function line(string $id, int $before, int $after, string $digest = 'x', string $other = 'x'): ProofLine
    {
        return new ProofLine(
            $id,
            strtoupper($id),
            10.0,
            new Measured(1000, 10, 0, $before, $before, $before, 1.0, 1, $digest),
            new Measured(100, 1, 0, $after, $after, $after, 1.0, 1, $other),
        );
    }

    public function test_what_is_measured_is_worse_only_beyond_what_the_machine_does_by_itself(): void
    {
        $line = static fn (?int $modelledBefore, int $before, ?int $modelledAfter, int $after): bool => (new ProofLine(
            'x',
            'SELECT',
            1.0,
            new Measured(0, 0, 0, $modelledBefore, $before, $before, 1.0, 1, 'd'),
            new Measured(0, 0, 0, $modelledAfter, $after, $after, 1.0, 1, 'd'),
        ))->isWorse();
        // Modelled times repeat: three percent is something.
        self::assertSame([false, true], [$line(970, 1, 1_000, 1), $line(969, 1, 1_000, 1)]);
        // Measured ones do not: half as long again, and half a millisecond.
        self::assertSame([false, true], [$line(null, 6_700, null, 10_000), $line(null, 6_690, null, 10_000)]);
        self::assertSame([false, true], [$line(null, 100, null, 600), $line(null, 100, null, 601)]);
    }

    public function test_what_nobody_would_see_is_no_difference(): void
    {
        self::assertFalse(Proof::isMore(100.0, 100.0));
        self::assertFalse(Proof::isMore(100.4, 100.0));
        self::assertTrue(Proof::isMore(100.6, 100.0));
        self::assertFalse(Proof::isMore(50.0, 100.0));
        // As a factor: before by after.
        self::assertFalse(Proof::isMore(1.0, 0.996));
        self::assertTrue(Proof::isMore(1.0, 0.99));
    }
}
