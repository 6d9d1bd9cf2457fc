<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * A table that is laid out anew: built beside the old one, which keeps its rows until the new one has them all.
 */
final readonly class Rebuild
{
    /**
     * @param  list<string>  $statistics columns that have them and shall have them again
     */
    public function __construct(public TableDefinition $definition, public TableDefinition $before, public array $statistics)
    {
    }
}
