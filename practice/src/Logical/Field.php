<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Logical;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Practice\Expression\Ref;

/**
 * A column of a relation. Its id is its own in the whole statement, however far it travels.
 */
final readonly class Field
{
    public function __construct(public int $id, public string $name, public ColumnType $type, public bool $nullable)
    {
    }

    public function ref(): Ref
    {
        return new Ref($this->id, $this->name, $this->type, $this->nullable);
    }

    public function asNullable(): self
    {
        return new self($this->id, $this->name, $this->type, true);
    }
}
