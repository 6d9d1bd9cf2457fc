<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

/**
 * The capabilities that find things, as they are installed.
 */
final class FindingSources
{
    /** @var array<string, FindingSource> by name */
    private array $sources = [];

    public function register(FindingSource $source): void
    {
        $this->sources[$source->name] = $source;
    }

    /** A finding stays readable where the capability that found it is gone. */
    public function of(string $name): FindingSource
    {
        return $this->sources[$name] ?? new FindingSource($name);
    }
}
