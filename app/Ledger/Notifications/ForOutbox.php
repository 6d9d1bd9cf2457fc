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

    /** Whether it cannot wait for a digest. */
    public function isPressing(): bool
    {
        return false;
    }

    /** What somebody must be allowed to read it in the outbox; null where everybody may. */
    public function ability(): ?string
    {
        return null;
    }

    /**
     * @return list<array{name: string, type: string, content: string}> that go with it
     */
    public function files(): array
    {
        return [];
    }
}
