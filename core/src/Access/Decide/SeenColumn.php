<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Catalog\ColumnType;

/**
 * A column as a name in a statement can mean it.
 */
final readonly class SeenColumn
{
    /** Its name in the table it is read from, whatever it is called here. */
    public string $base;

    /**
     * @param  list<string>  $from paths of the columns it flows from
     */
    public function __construct(
        public string $name,
        public ColumnAccess $access,
        public array $from,
        public ?TableRead $read = null,
        ?string $base = null,
        public ?ColumnType $type = null,
    ) {
        $this->base = $base ?? $name;
    }

    /** The same column under another name, by which its table is still known. */
    public function called(string $name): self
    {
        return new self(strtolower($name), $this->access, $this->from, $this->read, $this->base, $this->type);
    }

    /** The column of a query's result: what it flows from is known, its table is read inside. */
    public function fromInside(): self
    {
        return new self($this->name, $this->access, $this->from, null, null, $this->type);
    }

    public function isShut(): bool
    {
        return $this->access->sight === Sight::Hidden || $this->access->sight === Sight::Denied;
    }
}
