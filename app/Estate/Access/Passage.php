<?php

declare(strict_types=1);

namespace App\Estate\Access;

/**
 * What is run in the place of a statement, and what its reader should know of it.
 */
final readonly class Passage
{
    /**
     * @param  list<string>  $notes
     * @param  list<string>  $veiled schema.table of what is read only in part: figures that count what was left out are not shown
     */
    public function __construct(public string $sql, public array $notes, public ?int $decision, public array $veiled = [])
    {
    }
}
