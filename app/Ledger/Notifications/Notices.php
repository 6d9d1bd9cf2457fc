<?php

declare(strict_types=1);

namespace App\Ledger\Notifications;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceKind;
use App\Ledger\Models\Finding;
use App\Ledger\Models\Notification;
use App\Ledger\Models\Subscription;
use App\Platform\Support\Clock;

/**
 * Puts messages into the outbox: one when something is found, one when it is solved, none in between. Those who want a
 * digest get what gathered once a day.
 */
final readonly class Notices
{
    /**
     * @param  list<Finding>  $new
     * @param  list<Finding>  $solved
     */
    public function tell(Cluster $cluster, array $new, array $solved): void
    {
        foreach (Subscription::query()->where('paused', false)->get() as $subscription) {
            foreach ([['found', $new], ['solved', $solved]] as [$word, $findings]) {
                foreach ($findings as $finding) {
                    $this->put($subscription, $finding, $word, $cluster);
                }
            }
        }
    }

    private function put(Subscription $subscription, Finding $finding, string $word, Cluster $cluster): void
    {
        $fields = [
            'event' => $word,
            'finding' => $finding->id,
            'cluster' => $cluster->slug,
            'rule' => $finding->rule,
            'object' => $finding->object,
            'problem' => $finding->problem,
            'weight_us_per_week' => (int) $finding->weight_us,
            'weight_bytes_per_week' => (int) $finding->weight_bytes,
            'at' => gmdate('Y-m-d\TH:i:s\Z', Clock::seconds()),
            'path' => address('finding.show', $finding->id),
        ];
        Notification::query()->create([
            'watcher_id' => $subscription->id,
            'finding_id' => $finding->id,
            'kind' => $subscription->kind,
            'recipient' => mb_strcut($subscription->shown(), 0, 300),
            'subject' => mb_strcut(ucfirst($word).' on '.$cluster->name.': '.$finding->problem, 0, 300),
            'body' => $subscription->kind === 'webhook'
                    ? json_encode(
                        $fields,
                        JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE | JSON_THROW_ON_ERROR,
                    )
                    : ucfirst($word).
                        ": {$finding->problem}\n\n".
                        implode("\n", self::lines($finding)).
                        "\n\n".
                        config('app.url').
                        address('finding.show', $finding->id).
                        "\n",
            'state' => $subscription->digest ? 'held' : 'waiting',
            'made_us' => Clock::microseconds(),
        ]);
    }

    /** A word to one person, beside what watchers are told. */
    public function toPerson(string $email, string $subject, string $body): void
    {
        Notification::query()->create([
            'watcher_id' => 0,
            'kind' => 'mail',
            'recipient' => mb_strcut($email, 0, 300),
            'subject' => mb_strcut($subject, 0, 300),
            'body' => $body,
            'state' => 'waiting',
            'made_us' => Clock::microseconds(),
        ]);
    }

    /**
     * @return list<string> the evidence, but for what not everybody may see
     */
    private static function lines(Finding $finding): array
    {
        $open = array_filter($finding->evidence, static fn (Evidence $one): bool => $one->kind !== EvidenceKind::Literal);

        return array_values(array_map(static fn (Evidence $one): string => "{$one->label}: {$one->value}", $open));
    }
}
