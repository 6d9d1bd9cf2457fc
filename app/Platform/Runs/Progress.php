<?php

declare(strict_types=1);

namespace App\Platform\Runs;

use Closure;

/**
 * What a process says of a run while it is at it, and whether somebody wants it to stop.
 */
final readonly class Progress
{
    private const HEARTBEAT_NS = 500_000_000;

    private const WORDS_NS = 500_000_000;

    public function __construct(private BackgroundRun $run)
    {
    }

    /**
     * @param  float  $share done, from 0 to 1
     * @param  int  $step number of the statement it has come to
     */
    public function tell(string $what, float $share, int $step = 0): void
    {
        $this->run->tell($what, $share, $step);
    }

    /**
     * The same at a place where the run may end.
     *
     * @throws RunStopped where somebody asked for it
     */
    public function checkpoint(string $what, float $share): void
    {
        if ($this->run->stopAsked()) {
            throw new RunStopped();
        }
        $this->run->tell($what, $share);
    }

    /**
     * For work that could say so all the time: twice a second is enough.
     *
     * @return Closure(string, float): void throws RunStopped
     */
    public function often(): Closure
    {
        $last = 0;

        return function (string $what, float $share) use (&$last): void {
            $now = (int) hrtime(true);
            if ($now - $last > self::WORDS_NS) {
                $last = $now;
                $this->checkpoint($what, $share);
            }
        };
    }

    /**
     * Shows that the process lives, and asks whether it should stop; asked at any time, it looks twice a second.
     *
     * @return Closure(): bool
     */
    public function stop(): Closure
    {
        $last = 0;
        $stop = false;

        return function () use (&$last, &$stop): bool {
            $now = (int) hrtime(true);
            if ($now - $last > self::HEARTBEAT_NS) {
                $last = $now;
                $this->run->heartbeat();
                $stop = $this->run->stopAsked();
            }

            return $stop;
        };
    }
}
