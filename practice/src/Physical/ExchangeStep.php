<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Closure;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Practice\Expression\Expr;

/**
 * Moves rows between nodes.
 */
final class ExchangeStep extends Step
{
    public const GATHER = 'gather';

    public const BROADCAST = 'broadcast';

    public const REPARTITION = 'repartition';

    /** @var list<list<Batch>>|null rows by the node they go to */
    private ?array $moved = null;

    /** @var Closure(array<int, list<mixed>>, int, array<int, mixed>, Run): array<int, list<mixed>> */
    private readonly Closure $keys;

    /**
     * @param  list<Expr>  $by of REPARTITION
     * @param  list<list<int>>  $keys of REPARTITION, as in Placement
     */
    public function __construct(Step $input, public readonly string $way, private readonly array $by = [], array $keys = [])
    {
        parent::__construct(
            $input->fields,
            [$input],
            match ($way) {
                self::GATHER => new Placement(Placement::SINGLE),
                self::BROADCAST => new Placement(Placement::EVERYWHERE),
                default => new Placement(Placement::HASH, $keys),
            },
        );
        $this->keys = Kernel::project($by, array_flip($input->ids()), static fn () => 0);
    }

    public function kind(): string
    {
        return $this->way;
    }

    public function detail(): string
    {
        return match ($this->way) {
            self::GATHER => 'to node 1',
            self::BROADCAST => 'to every node',
            default => 'by '.implode(', ', array_map(static fn (Expr $e): string => $e->text(), $this->by)),
        };
    }

    public function rowWeight(): float
    {
        return 0.2;
    }

    /** What was moved to every node stays there. */
    public function split(): void
    {
    }

    public function reset(): void
    {
        parent::reset();
        $this->moved = null;
    }

    protected function produce(Run $run, int $node): iterable
    {
        if ($this->way === self::GATHER) {
            if ($node === 0) {
                yield from $this->gathered($run);
            }

            return;
        }
        $this->moved ??= $this->move($run);
        yield from $this->moved[$node];
    }

    /**
     * @return iterable<Batch>
     */
    private function gathered(Run $run): iterable
    {
        // Node by node and no further than asked for: a LIMIT above spares the rest.
        foreach ($this->inputs[0]->nodesOf($run) as $source) {
            foreach ($this->from($run, $source) as $batch) {
                if ($source !== 0) {
                    $this->counters($source)->bytesSent += $batch->bytes();
                }
                yield $batch;
            }
        }
    }

    /**
     * @return list<list<Batch>>
     */
    private function move(Run $run): array
    {
        $moved = array_fill(0, $run->nodes, []);
        foreach ($this->inputs[0]->nodesOf($run) as $source) {
            foreach ($this->from($run, $source) as $batch) {
                if ($this->way === self::BROADCAST) {
                    $this->counters($source)->bytesSent += $batch->bytes() * ($run->nodes - 1);
                    foreach ($moved as $target => $_) {
                        $moved[$target][] = $batch;
                    }

                    continue;
                }
                $rows = [];
                $keys = array_values(($this->keys)($batch->columns, $batch->rows, $run->outer, $run));
                $known = [];
                for ($i = 0; $i < $batch->rows; $i++) {
                    $key = array_map(static fn (array $column) => $column[$i], $keys);
                    $text = count($key) === 1 && is_int($key[0]) ? $key[0] : serialize($key);
                    $rows[($known[$text] ??= Distribution::node($key, $run->nodes))][] = $i;
                }
                foreach ($rows as $target => $list) {
                    $part = $batch->take($list);
                    $moved[$target][] = $part;
                    if ($target !== $source) {
                        $this->counters($source)->bytesSent += $part->bytes();
                    }
                }
            }
        }

        return array_values($moved);
    }
}
