<?php

declare(strict_types=1);

namespace App\Ledger\Notifications;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceKind;
use App\Ledger\Models\Finding;
use App\Ledger\Models\Subscription;
use App\Platform\Support\Clock;

/**
 * That something was found, or is solved: for people as a mail, for programs as JSON.
 */
final class FindingNotification extends ForOutbox
{
    /**
     * @param  'found'|'solved'  $event
     */
    public function __construct(private readonly Finding $finding, private readonly Cluster $cluster, private readonly string $event)
    {
    }

    public function toOutbox(?Subscription $subscription): array
    {
        return [
            ucfirst($this->event)." on {$this->cluster->name}: {$this->finding->problem}",
            $subscription?->kind === 'webhook' ? $this->json() : $this->text(),
        ];
    }

    public function findingId(): int
    {
        return $this->finding->id;
    }

    private function json(): string
    {
        return json_encode(
            [
                'event' => $this->event,
                'finding' => $this->finding->id,
                'cluster' => $this->cluster->slug,
                'rule' => $this->finding->rule,
                'object' => $this->finding->object,
                'problem' => $this->finding->problem,
                'weight' => (int) $this->finding->weight,
                'weight_unit' => $this->finding->weight_unit->field(),
                'at' => gmdate('Y-m-d\TH:i:s\Z', Clock::seconds()),
                'path' => address('finding.show', $this->finding->id),
            ],
            JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE | JSON_THROW_ON_ERROR,
        );
    }

    private function text(): string
    {
        // A mail goes where nobody asks for a role: what not everybody may see stays out.
        $open = array_filter($this->finding->evidence, static fn (Evidence $one): bool => $one->kind !== EvidenceKind::Literal);

        return ucfirst($this->event).
            ": {$this->finding->problem}\n\n".
            implode("\n", array_map(static fn (Evidence $one): string => "{$one->label}: {$one->value}", $open)).
            "\n\n".
            config('app.url').
            address('finding.show', $this->finding->id).
            "\n";
    }
}
