<?php

declare(strict_types=1);

namespace App\Statements\Application;

final readonly class RankingPage
{
    /**
     * @param  list<StatementRow>  $rows
     * @param  array{few: int, share: float}  $bulk the fewest statements that make 70% of the load
     */
    public function __construct(
        public array $rows,
        /** Statements that pass the filter. */
        public int $matching,
        /** Statements in the window from the chosen origins. */
        public int $statements,
        public int $totalLoadUs,
        public int $totalExecutions,
        public array $bulk,
        public float $greatest,
        public string $order,
        public int $page,
    ) {
    }

    public function pages(): int
    {
        return max(1, (int) ceil($this->matching / Ranking::PAGE));
    }
}
