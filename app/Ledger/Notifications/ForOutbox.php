<?php

declare(strict_types=1);

namespace App\Ledger\Notifications;

use App\Ledger\Models\Subscription;
use Illuminate\Notifications\Notification;

/**
 * A notification that goes through the outbox.
 */
abstract class ForOutbox extends Notification
{
    /**
     * @return list<class-string>
     */
    final public function via(): array
    {
        return [OutboxChannel::class];
    }

    /**
     * @param  Subscription|null  $subscription null where it is for one person
     * @return array{string, string} subject and body
     */
    abstract public function toOutbox(?Subscription $subscription): array;

    public function findingId(): ?int
    {
        return null;
    }
}
