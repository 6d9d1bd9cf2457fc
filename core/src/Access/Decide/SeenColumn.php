<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

/**
 * A column as a name in a statement can mean it.
 */
final readonly class SeenColumn
{
    /**
     * @param  list<string>  $from paths of the columns it flows from
     */
    public function __construct(public string $name, public ColumnAccess $access, public array $from, public ?TableRead $read = null)
    {
    }

    public function isShut(): bool
    {
        return $this->access->sight === Sight::Hidden || $this->access->sight === Sight::Denied;
    }
}
