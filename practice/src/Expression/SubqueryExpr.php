<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Expression;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Logical\RelationNode;

/**
 * A query inside an expression. What it reads of the outer query is found by its references no input of it has.
 */
final readonly class SubqueryExpr extends Expr
{
    public const SCALAR = 'scalar';

    public const EXISTS = 'exists';

    public const IN = 'in';

    /** left operator ANY (query) */
    public const ANY = 'any';

    /** left operator ALL (query) */
    public const ALL = 'all';

    public function __construct(
        public string $kind,
        public RelationNode $plan,
        public ?Expr $left,
        public string $operator,
        ColumnType $type,
    ) {
        parent::__construct($type, $kind !== self::EXISTS);
    }

    public static function boolean(string $kind, RelationNode $plan, ?Expr $left = null, string $operator = ''): self
    {
        return new self($kind, $plan, $left, $operator, ColumnType::of(TypeKind::Boolean));
    }

    public function key(): string
    {
        return "query[{$this->kind}{$this->operator}](".spl_object_id($this->plan).','.$this->left?->key().')';
    }

    public function text(): string
    {
        $query = '(subquery)';

        return match ($this->kind) {
            self::SCALAR => $query,
            self::EXISTS => "EXISTS {$query}",
            self::IN => "{$this->left?->text()} IN {$query}",
            default => "{$this->left?->text()} {$this->operator} ".strtoupper($this->kind)." {$query}",
        };
    }

    public function parts(): array
    {
        return $this->left === null ? [] : [$this->left];
    }

    public function refs(): array
    {
        return parent::refs() + $this->plan->free();
    }

    public function replace(callable $replacement): Expr
    {
        $new = $replacement($this);

        return $new ??
            new self(
                $this->kind,
                $this->plan->withExpressions(static fn (Expr $e): Expr => $e->replace($replacement)),
                $this->left?->replace($replacement),
                $this->operator,
                $this->type,
            );
    }

    public function hasSubquery(): bool
    {
        return true;
    }
}
