<?php

declare(strict_types=1);

namespace App\Ledger\Notifications;

use App\Ledger\Models\Subscription;

/**
 * A word to one person, beside what those who subscribe are told.
 */
final class PersonalNotification extends ForOutbox
{
    public function __construct(private readonly string $subject, private readonly string $body)
    {
    }

    public function toOutbox(?Subscription $subscription): array
    {
        return [$this->subject, $this->body];
    }
}
