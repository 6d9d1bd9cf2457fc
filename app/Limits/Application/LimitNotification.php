<?php

declare(strict_types=1);

namespace App\Limits\Application;

use App\Ledger\Models\Subscription;
use App\Ledger\Notifications\ForOutbox;
use App\Platform\Support\Clock;
use Fulcrion\Core\Limits\Act;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\Threshold;

/**
 * A share of a limit is reached: for people as a mail, for programs as JSON.
 */
final class LimitNotification extends ForOutbox
{
    public function __construct(
        private readonly KeptLimit $limit,
        private readonly Threshold $threshold,
        private readonly int $used,
    ) {
    }

    public function toOutbox(?Subscription $subscription): array
    {
        $holds = $this->threshold->act === Act::Hold ? ' New statements are held.' : '';
        $first = $this->limit->limit->period === LimitPeriod::Statement ? 'One statement used' : 'Used';

        return [
            "{$this->threshold->percent}% of a limit is reached: {$this->limit->title()}",
            $subscription?->kind === 'webhook' ? $this->json()
                : "{$first}: {$this->limit->amount($this->used)} of {$this->limit->amount($this->limit->limit->amount)}.{$holds}\n\n"
                    .config('app.url').address('limit.show', $this->limit->id)."\n",
        ];
    }

    private function json(): string
    {
        $limit = $this->limit->limit;

        return json_encode([
            'event' => 'limit',
            'limit' => $this->limit->id,
            'measure' => $limit->measure->value,
            'of' => $limit->kind->value,
            'name' => $limit->name,
            'period' => $limit->period->value,
            'percent' => $this->threshold->percent,
            'act' => $this->threshold->act->value,
            'used' => $this->used,
            'amount' => $limit->amount,
            'at' => gmdate('Y-m-d\TH:i:s\Z', Clock::seconds()),
            'path' => address('limit.show', $this->limit->id),
        ], JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE | JSON_THROW_ON_ERROR);
    }

    /** It tells what somebody uses, which not everybody may see. */
    public function ability(): string
    {
        return 'limit';
    }
}
