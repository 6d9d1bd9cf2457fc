<?php

declare(strict_types=1);

namespace Tests\Core\Proofs;

use Fulcrion\Core\Proofs\Answer;
use Fulcrion\Core\Proofs\AnswerDifference;
use Fulcrion\Core\Proofs\Measured;
use Fulcrion\Core\Proofs\ProofLine;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class AnswerTest extends TestCase
{
    public function test_tells_the_rows_of_one_side_whatever_the_order(): void
    {
        $difference = $this->answer([[1, 'a'], [2, 'b'], [2, 'b'], [3, null]])->against(
            $this->answer([[3, null], [2, 'b'], [1, 'A'], [4, 'd']]),
        );
        self::assertSame([[1, 'a'], [2, 'b']], $difference->before);
        self::assertSame([[1, 'A'], [4, 'd']], $difference->after);
        self::assertSame([2, 2], [$difference->onlyBefore, $difference->onlyAfter]);
        self::assertEquals($difference, AnswerDifference::fromArray($difference->toArray()));
    }

    public function test_floats_are_equal_as_a_proof_counts_them(): void
    {
        $difference = $this->answer([[0.1 + 0.2], [1e9]])->against($this->answer([[0.3], [1e9 * (1 + 1e-12)]]));
        self::assertSame([0, 0], [$difference->onlyBefore, $difference->onlyAfter]);
    }

    public function test_shows_no_more_than_the_first_and_counts_all(): void
    {
        $difference = $this->answer(array_map(static fn (int $i): array => [$i], range(1, 12)))->against($this->answer([]));
        self::assertSame([[1], [2], [3], [4], [5]], $difference->before);
        self::assertSame([12, 0], [$difference->onlyBefore, $difference->onlyAfter]);
    }

    public function test_too_many_rows_are_not_kept(): void
    {
        $many = array_fill(0, Answer::MOST_ROWS + 1, [1]);
        self::assertNull($this->answer($many)->rows);
        self::assertNotNull($this->answer(array_slice($many, 1))->rows);
        $difference = $this->answer($many)->against($this->answer([[1]]));
        self::assertNull($difference->onlyBefore);
        self::assertNull($difference->onlyAfter);
        self::assertSame([], $difference->before);
    }

    public function test_tables_of_both_sides_count(): void
    {
        self::assertSame(['a.b', 'a.c'], (new Answer(['x'], [], ['a.b']))->against(new Answer(['x'], [], ['a.b', 'a.c']))->tables);
    }

    public function test_random_answers_agree_with_taking_rows_away_one_by_one(): void
    {
        $random = new Randomizer(new Mt19937(7));
        for ($run = 0; $run < 300; $run++) {
            [$one, $two] = array_map(
                static fn (): array => array_map(
                    static fn (): array => [$random->getInt(0, 4), ['x', null][$random->getInt(0, 1)]],
                    array_fill(0, $random->getInt(1, 12), 0),
                ),
                [0, 1],
            );
            $left = $two;
            $only = 0;
            foreach ($one as $row) {
                $at = array_search($row, $left, true);
                if ($at === false) {
                    $only++;
                } else {
                    unset($left[$at]);
                }
            }
            $difference = $this->answer($one)->against($this->answer($two));
            self::assertSame([$only, count($left)], [$difference->onlyBefore, $difference->onlyAfter]);
        }
    }

    public function test_a_line_has_a_difference_only_where_its_answers_differ(): void
    {
        $run = fn (array $rows, string $digest, bool $kept = true): Measured => new Measured(
            0,
            0,
            0,
            null,
            1,
            1,
            1.0,
            count($rows),
            $digest,
            '',
            $kept ? $this->answer(array_values($rows)) : null,
        );
        $line = static fn (Measured $before, Measured $after): ProofLine => new ProofLine('f', 'SELECT 1', 1.0, $before, $after);
        self::assertNull($line($run([[1]], 'a'), $run([[1]], 'a'))->difference());
        self::assertNull($line($run([[1]], 'a'), $run([[2]], 'b', false))->difference());
        self::assertSame(
            [[[1]], [[2]]],
            [
                $line($run([[1]], 'a'), $run([[2]], 'b'))->difference()?->before,
                $line($run([[1]], 'a'), $run([[2]], 'b'))->difference()?->after,
            ],
        );
        self::assertArrayNotHasKey('answer', $run([[1]], 'a')->toArray(), 'rows are not written into the proof itself');
        self::assertSame([[1]], $run([[9]], 'z')->answering($run([[1]], 'a'))->answer?->rows);
    }

    /**
     * @param  list<list<int|float|string|bool|null>>  $rows
     */
    private function answer(array $rows): Answer
    {
        return Answer::of(['n', 't'], $rows, ['a.b']);
    }
}
