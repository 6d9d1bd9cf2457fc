<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Logical;

use Fulcrion\Practice\Expression\Expr;

final readonly class JoinNode extends RelationNode
{
    public const INNER = 'inner';

    public const LEFT = 'left';

    public const FULL = 'full';

    /** Left rows with a match. */
    public const SEMI = 'semi';

    /** Left rows without a match. */
    public const ANTI = 'anti';

    /**
     * @param  list<Expr>  $conditions all must be true; none makes a cross join
     */
    public function __construct(
        public string $kind,
        public RelationNode $left,
        public RelationNode $right,
        public array $conditions,
        /** 'left' or 'right' where nothing of that side but whether it matches is used above; else ''. */
        public string $onlyFilters = '',
    ) {
    }

    public function fields(): array
    {
        /** @param  list<Field>  $fields @return list<Field> */
        $nullable = static fn (array $fields): array => array_values(
            array_map(static fn (Field $field): Field => $field->asNullable(), $fields),
        );

        return match ($this->kind) {
            self::INNER => [...$this->left->fields(), ...$this->right->fields()],
            self::LEFT => [...$this->left->fields(), ...$nullable($this->right->fields())],
            self::FULL => [...$nullable($this->left->fields()), ...$nullable($this->right->fields())],
            default => $this->left->fields(),
        };
    }

    public function inputs(): array
    {
        return [$this->left, $this->right];
    }

    public function withInputs(array $inputs): self
    {
        return new self($this->kind, $inputs[0], $inputs[1], $this->conditions, $this->onlyFilters);
    }

    public function expressions(): array
    {
        return $this->conditions;
    }

    protected function withOwn(callable $change): self
    {
        return new self($this->kind, $this->left, $this->right, array_map($change, $this->conditions), $this->onlyFilters);
    }
}
