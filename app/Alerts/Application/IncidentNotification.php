<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Alerts\Models\Incident;
use App\Alerts\Models\Ring;
use App\Ledger\Models\Subscription;
use App\Ledger\Notifications\ForOutbox;
use App\Platform\Support\MomentStyle;
use DateTimeZone;

/**
 * That an incident began, grew or is over: for people as a mail, for programs as JSON (docs/formats/incident.md).
 */
final class IncidentNotification extends ForOutbox
{
    private const MOST = 50;

    public function __construct(
        private readonly Incident $incident,
        private readonly IncidentEvent $event,
        private readonly int $now,
        private readonly ?string $handedBy = null,
    ) {
    }

    public function isPressing(): bool
    {
        return true;
    }

    public function toOutbox(?Subscription $subscription): array
    {
        return [
            $this->handedBy === null ? $this->event->said($this->incident) : "{$this->handedBy} hands you: {$this->incident->title}",
            $subscription?->kind === 'webhook' ? $this->json() : $this->text(),
        ];
    }

    private function json(): string
    {
        $time = static fn (?int $at): ?string => $at === null ? null : gmdate('Y-m-d\TH:i:s\Z', $at);

        return json_encode([
            'event' => $this->event->value,
            'incident' => $this->incident->id,
            'cluster' => $this->incident->cluster->slug,
            'title' => $this->incident->title,
            'urgent' => $this->incident->is_urgent,
            'opened_at' => $time($this->incident->opened_at),
            'ended_at' => $time($this->incident->ended_at),
            'rings' => array_map(static fn (Ring $ring): array => [
                'alert' => $ring->alert_name, 'host' => $ring->host === '' ? null : $ring->host, 'said' => $ring->said,
                'rang_at' => $time($ring->rang_at), 'ended_at' => $time($ring->to_at),
            ], $this->rings()),
            'at' => $time($this->now),
            'path' => address('incident.show', $this->incident->id),
        ], JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE | JSON_THROW_ON_ERROR);
    }

    private function text(): string
    {
        $utc = new DateTimeZone('UTC');
        $at = static fn (int $second): string => moment($second * 1_000_000, MomentStyle::Minute, $utc).' UTC';
        $lines = array_map(static fn (Ring $ring): string => "{$at($ring->rang_at)}  {$ring->alert_name}: {$ring->said}"
            .($ring->to_at === null ? '' : ", until {$at($ring->to_at)}"), $this->rings());

        return "{$this->event->said($this->incident)}\n\n".implode("\n", $lines)."\n\n".config('app.url')
            .address('incident.show', $this->incident->id)."\n";
    }

    /**
     * @return list<Ring>
     */
    private function rings(): array
    {
        return array_values($this->incident->rings()->orderBy('rang_at')->orderBy('id')->limit(self::MOST)->get()->all());
    }
}
