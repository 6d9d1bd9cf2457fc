<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Alerts\Models\Silence;
use App\Platform\Models\User;

/**
 * Silences that are kept.
 */
final readonly class SilenceBook
{
    /** An event that is taken again takes the place of the one before. */
    public function keep(CalendarEvent $event, ?int $clusterId, ?int $alertId, ?string $host, User $user): Silence
    {
        // One event may silence several clusters.
        $uid = substr(hash('sha256', "{$event->uid()} {$clusterId} {$alertId} {$host}"), 0, 40);

        return Silence::query()->updateOrCreate(['uid' => $uid], [
            'cluster_id' => $clusterId, 'alert_id' => $alertId, 'host' => $host === '' ? null : $host, 'from_at' => $event->from(),
            'to_at' => $event->isRepeated() ? null : ($event->next($event->from())[1] ?? $event->from()), 'event' => $event->text(),
            'reason' => $event->reason(), 'made_by' => $user->name,
        ]);
    }

    /**
     * @return array{sentence: string, silences: list<array{Silence, string, array{int, int}|null}>} each with how it comes again and the
     *     time that goes on or comes next
     */
    public function page(int $now): array
    {
        $silences = [];
        $goesOn = 0;
        foreach (Silence::query()->with(['cluster', 'alert'])->orderBy('from_at')->get() as $silence) {
            $event = $silence->calendarEvent();
            $next = $event->next($now);
            $silences[] = [$silence, $event->repeats(), $next];
            $goesOn += $next !== null && $next[0] <= $now ? 1 : 0;
        }
        usort($silences, static fn (array $a, array $b): int => ($a[2][0] ?? PHP_INT_MAX) <=> ($b[2][0] ?? PHP_INT_MAX));

        return ['silences' => $silences, 'sentence' => match (true) {
            $silences === [] => 'Nothing is silenced',
            $goesOn > 0 => $goesOn === 1 ? 'One silence goes on' : "{$goesOn} silences go on",
            ($silences[0][2] ?? null) === null => 'All silences are over',
            default => 'No silence goes on now',
        }];
    }
}
