<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Alerts\Models\Incident;
use App\Ledger\Models\Subscription;
use App\Ledger\Notifications\OutboxChannel;
use App\Platform\Models\User;
use Illuminate\Support\Facades\Notification;

/**
 * Tells those who want to hear of incidents.
 */
final readonly class IncidentVoice
{
    public function __construct(private OutboxChannel $outbox)
    {
    }

    public function tell(Incident $incident, IncidentEvent $event, int $now): void
    {
        $message = new IncidentNotification($incident, $event, $now);
        if ($event === IncidentEvent::Second) {
            $second = User::query()->whereNull('disabled_at')->find($incident->second_user_id);
            if ($second !== null) {
                $this->outbox->write($second->email, $message);
            }

            return;
        }
        foreach (Subscription::hearing('incidents') as $subscription) {
            Notification::send($subscription, $message);
        }
    }

    /** To whom it was handed. */
    public function hand(Incident $incident, User $to, string $by, int $now): void
    {
        $this->outbox->write($to->email, new IncidentNotification($incident, IncidentEvent::Began, $now, $by));
    }
}
