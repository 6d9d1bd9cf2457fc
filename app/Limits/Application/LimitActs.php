<?php

declare(strict_types=1);

namespace App\Limits\Application;

use App\Ledger\Models\Subscription;
use App\Ledger\Notifications\OutboxChannel;
use App\Platform\Support\Clock;
use Fulcrion\Core\Limits\Act;
use Illuminate\Support\Facades\DB;

/**
 * Does what is to be done where a share of a limit is reached: once for each share and period.
 */
final readonly class LimitActs
{
    public function __construct(private OutboxChannel $outbox)
    {
    }

    /**
     * @param  int  $used what was used, what is only reserved not counted
     * @return int letters that went into the outbox
     */
    public function reach(KeptLimit $limit, int $period, int $used): int
    {
        $letters = 0;
        foreach ($limit->limit->reached($used) as $threshold) {
            // Whoever writes it down first does it.
            $isNew = DB::table('limit_acts')->insertOrIgnore([
                'limit_id' => $limit->id, 'from_at' => $period, 'percent' => $threshold->percent, 'act' => $threshold->act->value,
                'at_us' => Clock::microseconds(), 'used' => $used,
            ]) === 1;
            if ($isNew && $threshold->act !== Act::Note) {
                $letters += $this->tell($limit, new LimitNotification($limit, $threshold, $used));
            }
        }

        return $letters;
    }

    private function tell(KeptLimit $limit, LimitNotification $notification): int
    {
        $letters = 0;
        if ($limit->recipient !== null) {
            $this->outbox->write($limit->recipient, $notification);
            $letters++;
        }
        $subscription = $limit->watcherId === null ? null : Subscription::query()->find($limit->watcherId);
        if ($subscription !== null) {
            $this->outbox->send($subscription, $notification);
            $letters++;
        }

        return $letters;
    }
}
