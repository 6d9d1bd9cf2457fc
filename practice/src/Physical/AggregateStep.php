<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Closure;
use Fulcrion\Core\Catalog\HyperLogLog;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Expression\Aggregate;
use Fulcrion\Practice\Expression\Compiler;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Scalar;
use Fulcrion\Practice\Expression\SubqueryExpr;
use Fulcrion\Practice\Logical\Field;
use stdClass;

/**
 * Groups rows. Complete, it gives the aggregates; partial, it gives what a final one over all nodes goes on from.
 */
final class AggregateStep extends Step
{
    private readonly Closure $kernel;

    private readonly ?ScanStep $fused;

    /**
     * @param  list<Field>  $fields groups first, then aggregates or slots
     * @param  list<Expr>  $groups
     * @param  list<Slot>  $slots
     * @param  list<array{Aggregate, list<int>}>|null  $results aggregates and the numbers of their slots; null for a partial step
     * @param  callable(SubqueryExpr): int  $subquery
     */
    public function __construct(
        Step $input,
        array $fields,
        private readonly array $groups,
        private readonly array $slots,
        private readonly ?array $results,
        Placement $placement,
        callable $subquery,
    ) {
        parent::__construct($fields, [$input], $placement);
        $this->fused = $input instanceof ScanStep && ! $input->reduced && $input->conditions() !== [] ? $input : null;
        if ($this->fused !== null) {
            $this->fused->bare = true;
        }
        $this->kernel = $this->compile(array_flip($input->ids()), $this->fused?->conditions() ?? [], $subquery);
    }

    public function kind(): string
    {
        return $this->results === null ? 'partial-aggregate' : ($this->results === [] && $this->slots === [] ? 'distinct' : 'aggregate');
    }

    public function detail(): string
    {
        $groups = implode(', ', array_map(static fn (Expr $e): string => $e->text(), $this->groups));

        return $groups === '' ? 'all rows' : "by {$groups}";
    }

    public function rowWeight(): float
    {
        return 1.5;
    }

    protected function produce(Run $run, int $node): iterable
    {
        $state = (object) [
            'n' => 0,
            'keys' => [],
            'groups' => array_fill(0, count($this->groups), []),
            'slots' => array_fill(0, count($this->slots), []),
            'passed' => 0,
        ];
        // Where a subquery is run again, the rows of earlier runs stay counted.
        $before = $this->fused?->counters($node)->rowsOut ?? 0;
        foreach ($this->from($run, $node) as $batch) {
            ($this->kernel)($batch->columns, $batch->rows, $run->outer, $run, $state);
        }
        if ($this->fused !== null) {
            // The scan gave all rows; those that met its conditions are its rows out and this step's rows in.
            $this->fused->counters($node)->rowsOut = $before + $state->passed;
            $this->counters($node)->rowsIn = $this->fused->counters($node)->rowsOut;
        }
        if (
            $this->groups === [] &&
            $state->n === 0 &&
            ($this->placement->kind !== Placement::SINGLE || $node === 0) &&
            ($this->results === null || $this->placement->kind === Placement::SINGLE)
        ) {
            $state->n = 1;
            foreach ($this->slots as $number => $slot) {
                $state->slots[$number][] = match ($slot->kind) {
                    Slot::COUNT => 0,
                    Slot::SET => [],
                    Slot::SKETCH => new HyperLogLog(),
                    default => null,
                };
            }
        }
        if ($state->n === 0) {
            return;
        }
        $columns = [];
        foreach ($this->groups as $i => $_) {
            $columns[$this->fields[$i]->id] = $state->groups[$i];
        }
        $base = count($this->groups);
        if ($this->results === null) {
            foreach ($this->slots as $i => $_) {
                $columns[$this->fields[$base + $i]->id] = $this->whole($state->slots[$i], $i);
            }
        } else {
            foreach ($this->results as $i => [$aggregate, $numbers]) {
                $columns[$this->fields[$base + $i]->id] = array_values($this->result($aggregate, $numbers, $state));
            }
        }
        $batch = new Batch($state->n, $columns);
        $run->hold(
            $this,
            $node,
            $batch->bytes() +
                32 * $state->n +
                array_sum(
                    array_map(
                        fn (int $i): int => $this->slots[$i]->kind === Slot::SET
                            ? 16 * array_sum(array_map(count(...), $state->slots[$i]))
                            : 0,
                        array_keys($this->slots),
                    ),
                ),
        );
        yield $batch;
    }

    /**
     * @param  array<int, mixed>  $inputs
     * @param  list<Expr>  $conditions
     * @param  callable(SubqueryExpr): int  $subquery
     */
    private function compile(array $inputs, array $conditions, callable $subquery): Closure
    {
        $compiler = new Compiler($inputs, $subquery);
        $tests = array_map($compiler->truth(...), $conditions);
        $test = $tests === [] ? '' : 'if (!('.implode(' && ', $tests).')) { continue; } $passed++; ';
        $locals = '';
        $store = '';
        foreach ($this->groups as $i => $group) {
            $locals .= "\$g{$i} = &\$s->groups[{$i}]; ";
            $store .= "\$g{$i}[] = {$compiler->value($group)}; ";
        }
        $fresh = '';
        $update = '';
        foreach ($this->slots as $i => $slot) {
            $locals .= "\$a{$i} = &\$s->slots[{$i}]; ";
            $fresh .=
                "\$a{$i}[] = ".
                match ($slot->kind) {
                    Slot::COUNT => '0',
                    Slot::SET => '[]',
                    Slot::SKETCH => 'new \\'.HyperLogLog::class.'()',
                    default => 'null',
                }.
                '; ';
            $update .= $this->update($compiler, $slot, "\$a{$i}[\$g]");
        }
        $find =
            $this->groups === []
                ? "\$g = 0; if (\$s->n === 0) { \$s->n = 1; {$fresh} } "
                : '$key = '.
                    $compiler->groupKeys($this->groups).
                    '; $g = $keys[$key] ?? null; if ($g === null) { $g = $keys[$key] = $s->n++; '.
                    $store.
                    $fresh.
                    '} ';
        if ($this->slots === []) {
            $find =
                $this->groups === []
                    ? '$s->n = 1; '
                    : '$key = '.
                        $compiler->groupKeys($this->groups).
                        '; if (!isset($keys[$key])) { $keys[$key] = $s->n++; '.
                        $store.
                        '} ';
        }

        return Kernel::closure(
            'static function (array $c, int $n, array $o, $rt, object $s) { '.
                Kernel::locals($compiler).
                '$keys = &$s->keys; $passed = 0; '.
                $locals.
                'for ($i = 0; $i < $n; $i++) { '.
                $test.
                $find.
                $update.
                '} $s->passed += $passed; }',
        );
    }

    private function update(Compiler $compiler, Slot $slot, string $place): string
    {
        $if = $slot->filter === null ? '' : "if ({$compiler->truth($slot->filter)}) ";
        $argument = $slot->argument;
        if ($argument === null) {
            return "{$if}{ {$place}++; } ";
        }
        $value = $compiler->value($argument);
        $v = $argument->nullable ? '$v' : $value;
        $act = match ($slot->kind) {
            Slot::COUNT => "{$place}++;",
            // NULL + 1 is 1 in PHP, but NULL + 0.0 must not stay NULL.
            Slot::SUM => "{$place} += {$v};",
            Slot::SET => '$v = '.
                $v.
                '; '.
                $place.
                '['.
                ($argument->type->is(TypeKind::Double)
                    ? "pack('E', \$v + 0.0)"
                    : ($argument->type->is(TypeKind::Boolean)
                        ? '(int) $v'
                        : '$v')).
                '] = $v;',
            Slot::SKETCH => $slot->folds
                ? "{$place}->mergeText({$v});"
                : "{$place}->add(".
                    ($argument->type->is(TypeKind::Double)
                        ? "'f'.({$v} + 0.0)"
                        : ($argument->type->is(TypeKind::Boolean)
                            ? "'b'.(int) {$v}"
                            : "(string) {$v}")).
                    ');',
            default => $this->extreme($slot, $place, $v, $argument),
        };

        return $argument->nullable ? "{$if}{ if ((\$v = {$value}) !== null) { {$act} } } " : "{$if}{ {$act} } ";
    }

    private function extreme(Slot $slot, string $place, string $v, Expr $argument): string
    {
        $better = $argument->type->is(TypeKind::Text)
            ? "strcmp(\$v, {$place}) ".($slot->kind === Slot::MIN ? '<' : '>').' 0'
            : '$v '.($slot->kind === Slot::MIN ? '<' : '>')." {$place}";

        return "\$v = {$v}; if ({$place} === null || {$better}) { {$place} = \$v; }";
    }

    /**
     * @param  list<mixed>  $values
     * @return list<mixed>
     */
    private function whole(array $values, int $slot): array
    {
        if ($this->slots[$slot]->kind === Slot::SKETCH) {
            return array_map(static fn (HyperLogLog $sketch): string => $sketch->toText(), $values);
        }
        $argument = $this->slots[$slot]->argument;
        if ($argument !== null && in_array($this->slots[$slot]->kind, [Slot::SUM, Slot::SET], true)) {
            $double = $argument->type->is(TypeKind::Double);
            foreach ($values as $value) {
                if (is_float($value) && (! $double || ! is_finite($value))) {
                    $double ? Scalar::tooLarge() : Scalar::overflow();
                }
            }
        }

        return $values;
    }

    /**
     * @param  list<int>  $numbers
     * @return array<int, mixed>
     */
    private function result(Aggregate $aggregate, array $numbers, stdClass $state): array
    {
        if ($aggregate->function === 'approx_count_distinct') {
            return array_map(static fn (HyperLogLog $sketch): int => $sketch->estimate(), $state->slots[$numbers[0]]);
        }
        $first = $this->whole($state->slots[$numbers[0]], $numbers[0]);
        if ($aggregate->folds && $aggregate->function === 'count') {
            return array_map(static fn (?int $count): int => $count ?? 0, $first);
        }
        $isSet = $this->slots[$numbers[0]]->kind === Slot::SET;
        if ($isSet && $aggregate->function === 'count') {
            return array_map(count(...), $first);
        }
        if ($isSet) {
            $counts = array_map(count(...), $first);
            $first = $this->whole(array_map(static fn (array $set): mixed => $set === [] ? null : array_sum($set), $first), $numbers[0]);
        } else {
            $counts = isset($numbers[1]) ? $state->slots[$numbers[1]] : [];
        }
        if ($aggregate->function !== 'avg') {
            return $first;
        }
        $double = $aggregate->type->is(TypeKind::Double);
        $values = [];
        foreach ($first as $g => $sum) {
            $values[] = $sum === null ? null : ($double ? $sum / $counts[$g] : Scalar::divide($sum, $counts[$g], 4));
        }

        return $values;
    }
}
