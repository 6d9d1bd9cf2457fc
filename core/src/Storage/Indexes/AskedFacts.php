<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Indexes;

/**
 * What one should know of the data of some tables before an index on them is proposed.
 */
final readonly class AskedFacts
{
    /**
     * @param  array<string, list<string>>  $columns of each table those of which one should know how many values they have
     * @param  array<string, list<string>>  $values of each table those of which one should know how often each value is there
     * @param  array<string, array{string, string, array<string, string>}>  $spans fingerprint and alias, with a space between => table,
     *     alias, column => conditions of which one should know how many rows they keep
     */
    public function __construct(public array $columns, public array $values, public array $spans)
    {
    }
}
