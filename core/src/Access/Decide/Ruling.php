<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Policy\Subject;

/**
 * What was found against a statement, and what its reader should know, gathered while it is gone through.
 *
 * @internal
 */
final class Ruling
{
    /** @var array<string, Refusal> */
    public array $refusals = [];

    /** @var array<string, string> */
    public array $notes = [];

    public function __construct(public readonly Reader $reader)
    {
    }

    public function refuse(Refusal $refusal): void
    {
        $this->refusals[$refusal->key()] ??= $refusal;
    }

    public function note(string $key, string $words): void
    {
        $this->notes[$key] = $words;
    }

    public function who(): string
    {
        return Subject::show($this->reader->subject);
    }
}
