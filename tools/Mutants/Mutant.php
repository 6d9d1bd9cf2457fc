<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Mutants;

/**
 * One small mistake put into a file, which a test should notice.
 */
final readonly class Mutant
{
    /**
     * @param  int  $at byte the changed text begins at
     */
    public function __construct(public string $path, public int $line, public int $at, public string $from, public string $to)
    {
    }

    public function in(string $source): string
    {
        return substr_replace($source, $this->to, $this->at, strlen($this->from));
    }

    public function words(): string
    {
        $short = static fn (string $code): string => mb_strimwidth((string) preg_replace('~\s+~', ' ', $code), 0, 60, '…');

        return "{$this->path}:{$this->line}: {$short($this->from)} became {$short($this->to)}";
    }
}
