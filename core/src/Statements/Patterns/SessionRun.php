<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements\Patterns;

/**
 * One run as a session saw it: what came before and after it in the same session is known.
 */
final readonly class SessionRun
{
    /**
     * @param  int  $order place within its session; only larger or smaller matters
     * @param  string  $statement fingerprint
     * @param  string  $text normalised
     * @param  string  $exact stands for the text with its values: equal where those are
     */
    public function __construct(
        public string $session,
        public int $order,
        public string $statement,
        public string $text,
        public string $exact,
        public int $startedUs,
        public int $durationUs,
        public ?int $rowsReturned,
    ) {
    }

    public function endedUs(): int
    {
        return $this->startedUs + $this->durationUs;
    }
}
