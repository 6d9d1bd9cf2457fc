<?php

declare(strict_types=1);

namespace App\Platform\Runs;

use Closure;

/**
 * Work a background process is at for a while: it tells how far it has come and that it lives, and ends when somebody asks it to.
 */
interface BackgroundRun
{
    /** Whether a process should be at it now; what waits for one is not. */
    public function isAtWork(): bool;

    /** Whether its process says nothing for longer than one that lives would. */
    public function isSilent(): bool;

    public function askToStop(): void;

    /** Whether somebody has asked since it was read. */
    public function stopAsked(): bool;

    public function heartbeat(): void;

    /**
     * @param  float  $share done, from 0 to 1
     * @param  int  $step number of the statement it has come to, where it has some
     */
    public function tell(string $what, float $share, int $step = 0): void;

    /**
     * Does the work and says how it ended.
     *
     * @param  Closure(Progress): array<string, mixed>  $work gives what is kept of it
     */
    public function carryOut(Closure $work): void;

    /**
     * Ends it where its process was killed and nothing can go on.
     *
     * @return string what was done
     */
    public function broke(): string;
}
