<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

use App\Ledger\Models\Change;
use App\Platform\Support\Clock;
use Closure;

/**
 * What a worker says of a change while it is at it, and whether somebody wants it to stop.
 */
final readonly class Progress
{
    private const HEARTBEAT_US = 2_000_000;

    public function __construct(private Change $change)
    {
    }

    /**
     * @param  float  $share done, from 0 to 1
     * @param  int  $step number of the statement it has come to
     */
    public function tell(string $what, float $share, int $step = 0): void
    {
        $this->change->update([
            'progress' => mb_strcut($what, 0, 300),
            'done_share' => $share,
            'step' => $step,
            'heartbeat_us' => Clock::microseconds(),
        ]);
    }

    /**
     * Shows that the worker lives, and asks whether it should stop.
     *
     * @return Closure(): bool
     */
    public function stop(): Closure
    {
        $last = 0;
        $stop = false;
        $id = $this->change->id;

        return static function () use ($id, &$last, &$stop): bool {
            $now = (int) (hrtime(true) / 1000);
            if ($now - $last > self::HEARTBEAT_US) {
                $last = $now;
                Change::query()
                    ->whereKey($id)
                    ->update(['heartbeat_us' => Clock::microseconds()]);
                $stop = (bool) Change::query()->whereKey($id)->value('stop_asked');
            }

            return $stop;
        };
    }
}
