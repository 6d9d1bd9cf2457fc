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
     */
    public function __construct(public string $sql, public array $notes, public ?int $decision)
    {
    }
}
