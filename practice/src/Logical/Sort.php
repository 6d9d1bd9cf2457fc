<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Logical;

use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\SortTerm;

/**
 * The input in an order, cut to some rows, or both.
 */
final readonly class Sort extends RelationNode
{
    /**
     * @param  list<SortTerm>  $terms none where only the number of rows is cut
     */
    public function __construct(public RelationNode $input, public array $terms, public ?int $limit, public int $offset = 0)
    {
    }

    public function fields(): array
    {
        return $this->input->fields();
    }

    public function inputs(): array
    {
        return [$this->input];
    }

    public function withInputs(array $inputs): self
    {
        return new self($inputs[0], $this->terms, $this->limit, $this->offset);
    }

    public function expressions(): array
    {
        return array_map(static fn (SortTerm $term): Expr => $term->value, $this->terms);
    }

    protected function withOwn(callable $change): self
    {
        return new self(
            $this->input,
            array_map(static fn (SortTerm $term): SortTerm => $term->with($change), $this->terms),
            $this->limit,
            $this->offset,
        );
    }
}
