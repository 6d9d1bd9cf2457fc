<?php

declare(strict_types=1);

namespace App\Ledger\Notifications;

use App\Estate\Models\Cluster;
use App\Ledger\Models\Finding;
use App\Ledger\Models\Subscription;
use Illuminate\Support\Facades\Notification;

/**
 * Tells those who subscribe: one word when something is found, one when it is solved, none in between.
 */
final readonly class Notices
{
    /**
     * @param  list<Finding>  $new
     * @param  list<Finding>  $solved
     */
    public function tell(Cluster $cluster, array $new, array $solved): void
    {
        $subscriptions = Subscription::hearing('findings');
        foreach ($subscriptions as $subscription) {
            foreach ($new as $finding) {
                Notification::send($subscription, new FindingNotification($finding, $cluster, 'found'));
            }
            foreach ($solved as $finding) {
                Notification::send($subscription, new FindingNotification($finding, $cluster, 'solved'));
            }
        }
    }

    public function toPerson(string $email, string $subject, string $body): void
    {
        Notification::route(OutboxChannel::class, $email)->notify(new PersonalNotification($subject, $body));
    }
}
