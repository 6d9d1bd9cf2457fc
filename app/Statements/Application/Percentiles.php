<?php

declare(strict_types=1);

namespace App\Statements\Application;

use Fulcrion\Core\Text\Quantity;

/**
 * How long executions took; null where too few single durations are known.
 */
final readonly class Percentiles
{
    public function __construct(
        public ?int $p50Us,
        public ?int $p95Us,
        public ?int $p99Us,
        /** Executions whose single durations are known. */
        public int $measured,
    ) {
    }

    /**
     * What quantiles in a list are worth.
     *
     * @param  list<StatementRow>  $rows
     */
    public static function worth(array $rows): string
    {
        $measured = array_sum(array_map(static fn (StatementRow $row): int => $row->percentiles->measured, $rows));
        $executions = array_sum(array_map(static fn (StatementRow $row): int => $row->sums['executions'], $rows));

        return $measured >= $executions
            ? 'Quantiles are exact to 1%.'
            : 'Quantiles are exact to 1% of the runs whose durations are known singly: '.Quantity::count($measured).' of the '.
                Quantity::count($executions).' listed.';
    }
}
