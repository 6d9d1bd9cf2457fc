<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Expression;

use Fulcrion\Core\Catalog\ColumnType;

/**
 * A bound expression: every name resolved, every type known. A value.
 */
abstract readonly class Expr
{
    public function __construct(public ColumnType $type, public bool $nullable)
    {
    }

    /** Equal expressions have equal keys. */
    abstract public function key(): string;

    /** How people read it; columns without qualifier. */
    abstract public function text(): string;

    /**
     * @return list<Expr>
     */
    public function parts(): array
    {
        return [];
    }

    /**
     * The same with parts replaced, from the top down: where the replacement is null, its parts are looked at.
     *
     * @param  callable(Expr): ?Expr  $replacement
     */
    public function replace(callable $replacement): Expr
    {
        return $replacement($this) ?? $this;
    }

    /**
     * @return array<int, true> ids of the columns it reads, those of its subqueries' outside included
     */
    public function refs(): array
    {
        return self::refsOf($this->parts());
    }

    /**
     * @param  iterable<Expr>  $list
     * @return array<int, true> ids of the columns any of them reads
     */
    final public static function refsOf(iterable $list): array
    {
        $refs = [];
        foreach ($list as $e) {
            $refs += $e->refs();
        }

        return $refs;
    }

    /**
     * The same with other expressions in place of columns.
     *
     * @param  array<int, Expr>  $map by id of the column
     */
    final public function substitute(array $map): self
    {
        return $this->replace(static fn (self $e): ?self => $e instanceof Ref ? $map[$e->id] ?? null : null);
    }

    public function hasSubquery(): bool
    {
        foreach ($this->parts() as $part) {
            if ($part->hasSubquery()) {
                return true;
            }
        }

        return false;
    }

    /**
     * @return list<Expr> the parts that must all be true
     */
    public function conjuncts(): array
    {
        return [$this];
    }
}
