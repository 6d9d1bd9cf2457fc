<?php

declare(strict_types=1);

namespace App\Ledger\Notifications;

use App\Ledger\Models\Notification;
use App\Platform\Parts\OwnPart;
use App\Platform\Support\Clock;

/**
 * Whether messages go out.
 */
final readonly class OutboxPart
{
    private const DAY_US = 86_400_000_000;

    private const LATE_US = 600_000_000;

    public static function of(): OwnPart
    {
        $now = Clock::microseconds();
        $failed = Notification::query()->where('state', 'failed')->where('made_us', '>', $now - self::DAY_US)->count();
        $late = Notification::query()->where('state', 'waiting')->where('made_us', '<', $now - self::LATE_US)->count();

        return new OwnPart($failed > 0 ? 'act' : ($late > 0 ? 'watch' : 'calm'), match (true) {
            $failed > 0 => "{$failed} ".($failed === 1 ? 'message' : 'messages').' of the last day did not arrive.',
            $late > 0 => "{$late} ".($late === 1 ? 'message waits' : 'messages wait').' for more than ten minutes, or are tried again.',
            default => 'All messages went out.',
        }, ['failed' => (float) $failed, 'late' => (float) $late]);
    }
}
