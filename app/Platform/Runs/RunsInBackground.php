<?php

declare(strict_types=1);

namespace App\Platform\Runs;

use App\Platform\Support\Clock;
use Closure;
use Throwable;

/**
 * The columns of work in the background: state, progress, done_share, stop_asked, heartbeat_us, error.
 */
trait RunsInBackground
{
    public function isAtWork(): bool
    {
        return $this->state === 'running';
    }

    public function isSilent(): bool
    {
        return $this->isAtWork() && ($this->heartbeat_us ?? 0) < Clock::microseconds() - $this->patienceUs();
    }

    /** Whether one of this kind waits for its process, or is at work and lives. */
    public static function isOneGoingOn(): bool
    {
        return self::query()->whereIn('state', ['waiting', 'running'])->get()->contains(static fn (self $one): bool => ! $one->isOver());
    }

    /** Whether nothing more is to be expected of it. */
    public function isOver(): bool
    {
        return ! in_array($this->state, ['mapping', 'waiting', 'running'], true) || $this->isSilent();
    }

    public function askToStop(): void
    {
        self::query()
            ->whereKey($this->getKey())
            ->update(['stop_asked' => true]);
        $this->setAttribute('stop_asked', true);
        $this->syncOriginalAttribute('stop_asked');
    }

    public function stopAsked(): bool
    {
        return (bool) self::query()->whereKey($this->getKey())->value('stop_asked');
    }

    public function heartbeat(): void
    {
        self::query()
            ->whereKey($this->getKey())
            ->update(['heartbeat_us' => Clock::microseconds()]);
    }

    public function tell(string $what, float $share, int $step = 0): void
    {
        $this->forceFill([
            'progress' => mb_strcut($what, 0, 290),
            'done_share' => min(1.0, $share),
            'heartbeat_us' => Clock::microseconds(),
        ])->save();
    }

    public function carryOut(Closure $work): void
    {
        $this->forceFill(['state' => 'running', 'heartbeat_us' => Clock::microseconds()])->save();
        try {
            $kept = $work(new Progress($this));
            $this->forceFill($kept + ['state' => 'done', 'done_share' => 1, 'progress' => ''] + $this->atEnd())->save();
        } catch (Throwable $error) {
            $stopped = $error instanceof Foreseen && $error->isStop();
            if (! ($error instanceof Foreseen)) {
                report($error);
            }
            $this->forceFill(
                [
                    'state' => $stopped ? 'stopped' : 'failed',
                    'error' => ($error instanceof Foreseen ? '' : 'An error nobody foresaw: ').
                        mb_strcut(mb_scrub($error->getMessage(), 'UTF-8'), 0, 300),
                ] + $this->atEnd(),
            )->save();
        }
    }

    public function broke(): string
    {
        $error = 'Its process was killed. Start it again.';
        $this->forceFill(['state' => 'failed', 'error' => $error, 'stop_asked' => false] + $this->atEnd())->save();

        return class_basename($this)." {$this->getKey()} was ended: its process was killed.";
    }

    /** How long a process that lives may say nothing. */
    protected function patienceUs(): int
    {
        return 120_000_000;
    }

    /**
     * @return array<string, mixed> what is noted at each end
     */
    protected function atEnd(): array
    {
        return [];
    }
}
