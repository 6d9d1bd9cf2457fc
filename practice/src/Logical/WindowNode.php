<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Logical;

use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\WindowCall;

/**
 * The input with columns of window functions added.
 */
final readonly class WindowNode extends RelationNode
{
    /**
     * @param  list<Field>  $added
     * @param  list<WindowCall>  $calls one a field added
     */
    public function __construct(public RelationNode $input, public array $added, public array $calls)
    {
    }

    public function fields(): array
    {
        return [...$this->input->fields(), ...$this->added];
    }

    public function inputs(): array
    {
        return [$this->input];
    }

    public function withInputs(array $inputs): self
    {
        return new self($inputs[0], $this->added, $this->calls);
    }

    public function expressions(): array
    {
        return array_merge([], ...array_map(static fn (WindowCall $call): array => $call->expressions(), $this->calls));
    }

    protected function withOwn(callable $change): self
    {
        return new self(
            $this->input,
            $this->added,
            array_map(static fn (WindowCall $call): WindowCall => $call->with($change), $this->calls),
        );
    }

    /**
     * @return array<int, Expr> columns every call partitions by, by id
     */
    public function commonKeys(): array
    {
        $common = null;
        foreach ($this->calls as $call) {
            $keys = [];
            foreach ($call->partitionBy as $key) {
                foreach ($key->refs() as $id => $_) {
                    if ($key->key() === "#{$id}") {
                        $keys[$id] = $key;
                    }
                }
            }
            $common = $common === null ? $keys : array_intersect_key($common, $keys);
        }

        return $common ?? [];
    }
}
