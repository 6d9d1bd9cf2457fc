<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Closure;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Expression\Compiler;
use Fulcrion\Practice\Expression\SortTerm;
use Fulcrion\Practice\Expression\SubqueryExpr;

/**
 * Sorts; with a limit it keeps no more than it may have to give. Without terms it only cuts.
 */
final class SortStep extends Step
{
    private readonly ?Closure $order;

    /**
     * @param  list<SortTerm>  $terms
     * @param  callable(SubqueryExpr): int  $subquery
     */
    public function __construct(
        Step $input,
        private readonly array $terms,
        private readonly ?int $limit,
        private readonly int $offset,
        callable $subquery,
    ) {
        parent::__construct($input->fields, [$input], $input->placement);
        $this->order = $terms === [] ? null : self::order($terms, array_flip($input->ids()), $subquery);
    }

    public function kind(): string
    {
        return $this->terms === [] ? 'limit' : ($this->limit === null ? 'sort' : 'top');
    }

    public function detail(): string
    {
        $cut = ($this->limit === null ? '' : "first {$this->limit}").($this->offset > 0 ? " behind {$this->offset}" : '');

        return trim(
            ($this->terms === []
                ? ''
                : 'by '.implode(', ', array_map(static fn (SortTerm $term): string => $term->text(), $this->terms))).
                ($cut === '' ? '' : ($this->terms === [] ? '' : ', ').$cut),
        );
    }

    public function rowWeight(): float
    {
        return $this->terms === [] ? 0.0 : 3.0;
    }

    /**
     * Sorts row numbers of a batch.
     *
     * @param  list<SortTerm>  $terms
     * @param  array<int, mixed>  $inputs
     * @param  callable(SubqueryExpr): int  $subquery
     * @return Closure(array<int, list<mixed>>, list<int>, array<int, mixed>, Run): list<int>
     */
    public static function order(array $terms, array $inputs, callable $subquery): Closure
    {
        $compiler = new Compiler($inputs, $subquery);
        $keys = '';
        $compare = '';
        $used = [];
        foreach ($terms as $number => $term) {
            $keys .= "\$k{$number} = []; foreach (\$r as \$i) { \$k{$number}[\$i] = {$compiler->value($term->value)}; } ";
            [$a, $b] = $term->descending ? ["\$k{$number}[\$y]", "\$k{$number}[\$x]"] : ["\$k{$number}[\$x]", "\$k{$number}[\$y]"];
            $plain = $term->value->type->is(TypeKind::Text) ? "strcmp({$a}, {$b})" : "({$a} <=> {$b})";
            if ($term->value->nullable) {
                $first = $term->nullsFirst ? '-1' : '1';
                $last = $term->nullsFirst ? '1' : '-1';
                $plain = "(\$k{$number}[\$x] === null ? (\$k{$number}[\$y] === null ? 0 : {$first}) : (\$k{$number}[\$y] === null "
                    ."? {$last} : {$plain}))";
            }
            $compare .= "\$d = {$plain}; if (\$d !== 0) { return \$d; } ";
            $used[] = "\$k{$number}";
        }

        return Kernel::closure(
            'static function (array $c, array $r, array $o, $rt) { '.
                Kernel::locals($compiler).
                $keys.
                'usort($r, static function ($x, $y) use ('.
                implode(', ', $used).
                ') { '.
                $compare.
                'return $x <=> $y; }); return $r; }',
        );
    }

    protected function produce(Run $run, int $node): iterable
    {
        if ($this->order === null) {
            yield from $this->cut($this->from($run, $node));

            return;
        }
        $keep = $this->limit === null ? null : $this->limit + $this->offset;
        $ids = $this->ids();
        // Put together seldom: each time copies all there is.
        $pending = [];
        $count = 0;
        foreach ($this->from($run, $node) as $batch) {
            $pending[] = $batch;
            $count += $batch->rows;
            if ($keep !== null && $count > max(4096, 4 * $keep)) {
                $rows = Batch::all($pending, $ids);
                $run->hold($this, $node, $rows->bytes());
                $pending = [$rows->take(array_slice($this->sorted($run, $rows), 0, $keep))];
                $count = $pending[0]->rows;
            }
        }
        $run->reserve($count * count($ids));
        $rows = Batch::all($pending, $ids);
        unset($pending);
        $run->hold($this, $node, $rows->bytes());
        if ($rows->rows > 0) {
            yield $rows->take(array_slice($this->sorted($run, $rows), $this->offset, $this->limit));
        }
    }

    /**
     * @return list<int>
     */
    private function sorted(Run $run, Batch $rows): array
    {
        assert($this->order !== null);
        // The keys, the numbers of the rows twice, and the rows once more in their order.
        $run->reserve($rows->rows * (count($this->terms) + 4 + count($rows->columns)));

        return ($this->order)($rows->columns, range(0, $rows->rows - 1), $run->outer, $run);
    }

    /**
     * @param  iterable<Batch>  $batches
     * @return iterable<Batch>
     */
    private function cut(iterable $batches): iterable
    {
        $skip = $this->offset;
        $left = $this->limit;
        if ($left === 0) {
            return;
        }
        foreach ($batches as $batch) {
            if ($skip >= $batch->rows) {
                $skip -= $batch->rows;

                continue;
            }
            $take = $left === null ? $batch->rows - $skip : min($left, $batch->rows - $skip);
            yield $skip === 0 && $take === $batch->rows ? $batch : $batch->take(range($skip, $skip + $take - 1));
            $skip = 0;
            if ($left !== null && ($left -= $take) <= 0) {
                return;
            }
        }
    }
}
