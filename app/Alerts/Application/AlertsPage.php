<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Alerts\Charts\LanesFigure;
use App\Alerts\Models\Alert;
use App\Alerts\Models\Incident;
use App\Alerts\Models\Ring;
use App\Metrics\Signals\SignalSources;
use App\Platform\Figures\Figure;
use DateTimeZone;
use Illuminate\Database\Eloquent\Collection;

/**
 * All alerts, what of them rings, and what they rang in the last two weeks.
 */
final readonly class AlertsPage
{
    private const DAYS = 14;

    private const MOST = 500;

    private const MOST_LANES = 30;

    public function __construct(private SignalSources $sources)
    {
    }

    /**
     * @return array{sentence: string, figure: Figure|null, open: list<Incident>, past: list<Incident>, alerts: list<array{Alert, string,
     *     int, bool}>} alerts with their condition in words, how often they rang, and whether they ring
     */
    public function of(int $now, DateTimeZone $zone): array
    {
        $from = $now - self::DAYS * 86_400;
        $open = array_values(Incident::open()->with('cluster')->orderByDesc('is_urgent')->orderByDesc('opened_at')->get()->all());
        $past = array_values(Incident::query()->with('cluster')->whereNotNull('ended_at')->where('ended_at', '>=', $from)
            ->orderByDesc('ended_at')->limit(50)->get()->all());
        $rings = Ring::query()->where('rang_at', '>=', $from)->orWhereNull('to_at')->orderBy('rang_at')->limit(5_000)->get()
            ->groupBy('alert_id');
        $alerts = $lanes = $signals = [];
        $isOne = Alert::query()->distinct()->count('cluster_id') === 1;
        foreach (Alert::query()->with('cluster')->orderBy('cluster_id')->orderBy('name')->limit(self::MOST)->get() as $alert) {
            $own = $rings->get($alert->id) ?? new Collection();
            $signals[$alert->cluster_id] ??= $this->sources->byKey($alert->cluster);
            $words = AlertWords::condition($alert, $signals[$alert->cluster_id][$alert->signal] ?? null);
            $alerts[] = [$alert, $words, $own->count(), $own->contains(static fn (Ring $ring): bool => $ring->to_at === null)];
            if ($alert->is_on) {
                $lanes[] = [$isOne ? $alert->name : "{$alert->name}, {$alert->cluster->name}", self::bars($alert, $own->all(), $now)];
            }
        }
        $sentence = self::sentence($open, count($alerts));

        return [
            'sentence' => $sentence, 'open' => $open, 'past' => $past, 'alerts' => $alerts,
            'figure' => $lanes === [] ? null : LanesFigure::draw('alerts', 'When alerts rang', "{$sentence}.", 'Each bar is a time '
                .'in which an alert rang in the last '.self::DAYS.' days; hollow ones were silenced.',
                array_slice($lanes, 0, self::MOST_LANES), $from, $now, $zone),
        ];
    }

    /**
     * @param  array<array-key, Ring>  $rings
     * @return list<array{int, int|null, string, string}>
     */
    private static function bars(Alert $alert, array $rings, int $now): array
    {
        return array_values(array_map(static fn (Ring $ring): array => [
            $ring->from_at, $ring->to_at ?? $now, $ring->said.($ring->is_silenced ? ', silenced' : ''),
            $ring->is_silenced ? 'silenced' : ($alert->is_urgent ? 'urgent' : ''),
        ], $rings));
    }

    /**
     * @param  list<Incident>  $open
     */
    private static function sentence(array $open, int $alerts): string
    {
        $waiting = count(array_filter($open, static fn (Incident $one): bool => $one->taken_at === null));

        return match (true) {
            $open === [] && $alerts === 0 => 'No alert is set yet',
            $open === [] => 'Nothing rings',
            $waiting === 0 => count($open) === 1 ? '1 incident is open, and taken care of'
                : count($open).' incidents are open, all taken care of',
            count($open) === 1 => '1 incident is open, and nobody has taken it',
            $waiting === count($open) => "{$waiting} incidents are open, and nobody has taken any of them",
            default => count($open)." incidents are open, and nobody has taken {$waiting} of them",
        };
    }
}
