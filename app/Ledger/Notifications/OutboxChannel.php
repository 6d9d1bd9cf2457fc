<?php

declare(strict_types=1);

namespace App\Ledger\Notifications;

use App\Ledger\Models\Notification as Letter;
use App\Ledger\Models\Subscription;
use App\Platform\Support\Clock;
use Illuminate\Notifications\AnonymousNotifiable;
use Illuminate\Support\Facades\DB;

/**
 * Puts a notification into the outbox, from which it is sent and where it can be read. Those who want a digest get what gathered
 * once a day.
 */
final readonly class OutboxChannel
{
    /**
     * To an address, whoever that is.
     *
     * @return int number of the message
     */
    public function write(string $address, ForOutbox $notification): int
    {
        return $this->send((new AnonymousNotifiable())->route(self::class, $address), $notification);
    }

    /** @return int number of the message */
    public function send(object $notifiable, ForOutbox $notification): int
    {
        $subscription = $notifiable instanceof Subscription ? $notifiable : null;
        $address = $notifiable instanceof AnonymousNotifiable ? (string) $notifiable->routeNotificationFor(self::class) : '';
        [$subject, $body] = $notification->toOutbox($subscription);
        $letter = Letter::query()->create([
            'watcher_id' => $subscription->id ?? 0,
            'finding_id' => $notification->findingId(),
            'kind' => $subscription->kind ?? 'mail',
            'recipient' => mb_strcut($subscription?->shown() ?? $address, 0, 300),
            'subject' => mb_strcut($subject, 0, 300),
            'body' => $body,
            'state' => $subscription?->digest === true && ! $notification->isPressing() ? 'held' : 'waiting',
            'ability' => $notification->ability(),
            'made_us' => Clock::microseconds(),
        ]);
        foreach ($notification->files() as $file) {
            DB::table('notification_files')->insert(['notification_id' => $letter->id, ...$file]);
        }

        return $letter->id;
    }
}
