<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Closure;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Expression\Constant;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Scalar;
use Fulcrion\Practice\Expression\SortTerm;
use Fulcrion\Practice\Expression\SubqueryExpr;
use Fulcrion\Practice\Expression\WindowCall;
use Fulcrion\Practice\Logical\Field;

final class WindowStep extends Step
{
    /** @var list<array{WindowCall, Field, Closure, Closure}> call, its column, order of the rows, keys and arguments */
    private array $compiled = [];

    /**
     * @param  list<Field>  $added
     * @param  list<WindowCall>  $calls
     * @param  callable(SubqueryExpr): int  $subquery
     */
    public function __construct(Step $input, array $added, private readonly array $calls, callable $subquery)
    {
        parent::__construct([...$input->fields, ...$added], [$input], $input->placement);
        $inputs = array_flip($input->ids());
        foreach ($calls as $i => $call) {
            $terms = [...array_map(static fn (Expr $e): SortTerm => new SortTerm($e, false, true), $call->partitionBy), ...$call->orderBy];
            $values = [...$call->partitionBy, ...array_map(static fn (SortTerm $t): Expr =>
                $t->value, $call->orderBy), ...$call->arguments];
            $this->compiled[] = [
                $call,
                $added[$i],
                $terms === [] ? static fn (array $c, array $r): array => $r : SortStep::order($terms, $inputs, $subquery),
                Kernel::project($values, $inputs, $subquery),
            ];
        }
    }

    public function kind(): string
    {
        return 'window';
    }

    public function detail(): string
    {
        return implode(', ', array_map(static fn (WindowCall $call): string => $call->text(), $this->calls));
    }

    public function rowWeight(): float
    {
        return 3.5;
    }

    protected function produce(Run $run, int $node): iterable
    {
        $rows = Batch::all($this->from($run, $node), $this->inputs[0]->ids());
        if ($rows->rows === 0) {
            return;
        }
        $run->reserve($rows->rows * (6 + 2 * count($rows->columns)));
        $columns = $rows->columns;
        foreach ($this->compiled as [$call, $field, $order, $values]) {
            $sorted = $order($rows->columns, range(0, $rows->rows - 1), $run->outer, $run);
            $parts = array_values($values($rows->columns, $rows->rows, $run->outer, $run));
            $columns[$field->id] = $this->compute($call, $sorted, $parts);
        }
        $batch = new Batch($rows->rows, $columns);
        $run->hold($this, $node, $batch->bytes());
        yield $batch;
    }

    /**
     * @param  list<int>  $sorted
     * @param  list<list<mixed>>  $parts partition keys, order keys, arguments
     * @return list<mixed>
     */
    private function compute(WindowCall $call, array $sorted, array $parts): array
    {
        $partitionKeys = array_slice($parts, 0, count($call->partitionBy));
        $orderKeys = array_slice($parts, count($call->partitionBy), count($call->orderBy));
        $arguments = array_slice($parts, count($call->partitionBy) + count($call->orderBy));
        $result = array_fill(0, count($sorted), null);
        $count = count($sorted);
        for ($start = 0; $start < $count; $start = $end) {
            $end = $start + 1;
            while ($end < $count && self::same($partitionKeys, $sorted[$start], $sorted[$end])) {
                $end++;
            }
            $this->partition($call, array_slice($sorted, $start, $end - $start), $orderKeys, $arguments, $result);
        }

        return array_values($result);
    }

    /**
     * @param  list<int>  $rows
     * @param  list<list<mixed>>  $orderKeys
     * @param  list<list<mixed>>  $arguments
     * @param  array<int, mixed>  $result
     */
    private function partition(WindowCall $call, array $rows, array $orderKeys, array $arguments, array &$result): void
    {
        $count = count($rows);
        if ($call->function === 'lag' || $call->function === 'lead') {
            $by = isset($call->arguments[1]) && $call->arguments[1] instanceof Constant ? (int) $call->arguments[1]->value : 1;
            $by = $call->function === 'lag' ? -$by : $by;
            foreach ($rows as $i => $row) {
                $other = abs($by) > $count ? null : $rows[$i + $by] ?? null;
                $result[$row] = $other === null ? $arguments[2][$row] ?? null : $arguments[0][$other];
            }

            return;
        }
        $rank = 0;
        $dense = 0;
        $state = ['count' => 0, 'sum' => null, 'min' => null, 'max' => null];
        for ($i = 0; $i < $count; $i = $next) {
            $next = $i + 1;
            // Peers are ranked alike and, unless the frame counts rows, seen together.
            while (
                $next < $count &&
                (($call->frame === WindowCall::WHOLE && $orderKeys === []) || self::same($orderKeys, $rows[$i], $rows[$next])) &&
                ($call->frame !== WindowCall::ROWS || isset(['rank' => 1, 'dense_rank' => 1][$call->function]))
            ) {
                $next++;
            }
            $rank = $i + 1;
            $dense++;
            for ($j = $i; $j < $next; $j++) {
                $this->see($state, $arguments === [] ? true : $arguments[0][$rows[$j]]);
            }
            for ($j = $i; $j < $next; $j++) {
                $result[$rows[$j]] = match ($call->function) {
                    'row_number' => $j + 1,
                    'rank' => $rank,
                    'dense_rank' => $dense,
                    default => $this->aggregate($call, $state),
                };
            }
        }
        if ($call->frame === WindowCall::WHOLE && ! isset(['row_number' => 1, 'rank' => 1, 'dense_rank' => 1][$call->function])) {
            foreach ($rows as $row) {
                $result[$row] = $this->aggregate($call, $state);
            }
        }
    }

    /**
     * @param  array{count: int, sum: int|float|null, min: mixed, max: mixed}  $state
     */
    private function see(array &$state, mixed $value): void
    {
        if ($value === null) {
            return;
        }
        $state['count']++;
        if (is_int($value) || is_float($value)) {
            $state['sum'] = ($state['sum'] ?? 0) + $value;
        }
        $order = static fn (mixed $a, mixed $b): int => is_string($a) && is_string($b) ? strcmp($a, $b) : $a <=> $b;
        if ($state['min'] === null || $order($value, $state['min']) < 0) {
            $state['min'] = $value;
        }
        if ($state['max'] === null || $order($value, $state['max']) > 0) {
            $state['max'] = $value;
        }
    }

    /**
     * @param  array{count: int, sum: int|float|null, min: mixed, max: mixed}  $state
     */
    private function aggregate(WindowCall $call, array $state): mixed
    {
        $double = $call->type->is(TypeKind::Double);
        if (
            is_float($state['sum']) &&
            (! $double || ! is_finite($state['sum'])) &&
            ($call->function === 'sum' || $call->function === 'avg')
        ) {
            $double ? Scalar::tooLarge() : Scalar::overflow();
        }

        return match ($call->function) {
            'avg' => $state['sum'] === null
                ? null
                : ($double
                    ? $state['sum'] / $state['count']
                    : Scalar::divide((int) $state['sum'], $state['count'], 4)),
            default => $state[$call->function],
        };
    }

    /**
     * @param  list<list<mixed>>  $columns
     */
    private static function same(array $columns, int $a, int $b): bool
    {
        foreach ($columns as $column) {
            if ($column[$a] !== $column[$b]) {
                return false;
            }
        }

        return true;
    }
}
