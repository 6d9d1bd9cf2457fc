<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Expression;

use Fulcrion\Core\Catalog\ColumnType;

/**
 * A column of an input, or of an outer query where no input has it.
 */
final readonly class Ref extends Expr
{
    public function __construct(public int $id, public string $name, ColumnType $type, bool $nullable)
    {
        parent::__construct($type, $nullable);
    }

    public function key(): string
    {
        return "#{$this->id}";
    }

    public function text(): string
    {
        return $this->name;
    }

    public function refs(): array
    {
        return [$this->id => true];
    }
}
