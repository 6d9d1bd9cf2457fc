<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\LockReading;
use App\Estate\Connectors\SessionSource;
use Closure;
use Fulcrion\Core\Sessions\Deadlock;
use Fulcrion\Core\Sessions\LockWait;

/**
 * A real source whose waits are told otherwise, so that nobody has to wait for them.
 */
final readonly class LongerWaits implements SessionSource
{
    /**
     * @param  Closure(LockWait): LockWait  $told
     */
    public function __construct(private SessionSource $real, private Closure $told)
    {
    }

    public function waiting(): LockReading
    {
        $reading = $this->real->waiting();

        return new LockReading($reading->sessions, array_map($this->told, $reading->waits), $reading->gaps);
    }

    public function deadlock(): ?Deadlock
    {
        return $this->real->deadlock();
    }

    public function canStop(): bool
    {
        return $this->real->canStop();
    }

    public function cancel(int $session): void
    {
        $this->real->cancel($session);
    }

    public function end(int $session): void
    {
        $this->real->end($session);
    }
}
