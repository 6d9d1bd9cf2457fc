<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

/**
 * What a statement sees when it is measured, so that two runs of it see the same whatever others write meanwhile.
 */
final readonly class ReadAt
{
    /**
     * @param  int  $nowUs what time it is for the statement
     * @param  array<string, int>  $versions identity of a table => version that is read; the current one of every other
     * @param  bool  $rollups whether rollups and lookups may answer
     */
    public function __construct(public int $nowUs, public array $versions = [], public bool $rollups = true)
    {
    }

    /**
     * The same moment with other versions of some tables.
     *
     * @param  array<string, int>  $versions
     */
    public function with(array $versions): self
    {
        return new self($this->nowUs, $versions + $this->versions, $this->rollups);
    }

    public function withoutRollups(): self
    {
        return new self($this->nowUs, $this->versions, false);
    }
}
