<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Alerts\Models\Alert;
use App\Alerts\Models\Incident;
use App\Alerts\Models\IncidentAct;
use App\Alerts\Models\Ring;
use App\Alerts\Models\Silence;
use App\Estate\Models\Cluster;
use App\Metrics\Signals\SignalSources;
use Fulcrion\Core\Alerts\AlertRing;
use Illuminate\Support\Facades\DB;

/**
 * Puts rings into incidents, and says so: one word when an incident begins, one when it has grown to twice its size, one when it is over.
 */
final readonly class IncidentBook
{
    private const LONGEST = 300;

    public function __construct(private SignalSources $sources, private IncidentVoice $voice, private IncidentFindings $findings)
    {
    }

    /**
     * @param  list<array{Alert, AlertRing}>  $started rings that began
     * @param  list<array{Alert, AlertRing}>  $ended rings that ended
     * @param  int  $clock second up to which it is known what was
     */
    public function take(Cluster $cluster, array $started, array $ended, int $clock, int $now): void
    {
        if ($started === [] && $ended === [] && ! self::isBusy($cluster)) {
            return;
        }
        $told = DB::transaction(function () use ($cluster, $started, $ended, $clock, $now): array {
            // Of two that come at once the second one finds what the first one did.
            DB::table('clusters')->where('id', $cluster->id)->lockForUpdate()->value('id');
            foreach ($started as [$alert, $ring]) {
                $this->begin($cluster, $alert, $ring);
            }
            foreach ($ended as [$alert, $ring]) {
                Ring::query()->where('alert_id', $alert->id)->where('host', $ring->host)->where('from_at', $ring->from)
                    ->update(['to_at' => $ring->to, 'worst' => $ring->worst,
                        'said' => mb_strcut(AlertWords::ring($alert, $ring, $this->sources->find($cluster, $alert->signal)), 0,
                            self::LONGEST)]);
            }
            $this->gather($cluster, $now);

            return $this->goOn($cluster, $clock, $now);
        }, 3);
        foreach ($told as [$incident, $event]) {
            $this->voice->tell($incident, $event, $now);
        }
        $this->findings->report($cluster);
    }

    private static function isBusy(Cluster $cluster): bool
    {
        return Incident::open()->where('cluster_id', $cluster->id)->exists()
            || Ring::query()->where('cluster_id', $cluster->id)->whereNull('to_at')->exists();
    }

    private function begin(Cluster $cluster, Alert $alert, AlertRing $ring): void
    {
        $said = AlertWords::ring($alert, $ring, $this->sources->find($cluster, $alert->signal));
        Ring::query()->insertOrIgnore([
            'alert_id' => $alert->id, 'cluster_id' => $cluster->id, 'alert_name' => $alert->name,
            'host' => mb_strcut($ring->host, 0, 120), 'from_at' => $ring->from, 'rang_at' => $ring->rangAt, 'to_at' => null,
            'worst' => $ring->worst, 'said' => mb_strcut($said, 0, self::LONGEST), 'is_silenced' => false,
        ]);
    }

    /** Rings without an incident get into one, unless they are silenced. */
    private function gather(Cluster $cluster, int $now): void
    {
        $silences = Silence::query()->get();
        $alerts = Alert::query()->where('cluster_id', $cluster->id)->get()->keyBy('id');
        $rings = Ring::query()->where('cluster_id', $cluster->id)->whereNull('incident_id')
            // What began and ended in silence stays out of it.
            ->where(static fn ($query) => $query->where('is_silenced', false)->orWhereNull('to_at'))->orderBy('rang_at')->get();
        foreach ($rings as $ring) {
            $isSilenced = $silences->contains(static fn (Silence $one): bool => $one->covers($cluster->id, $ring->alert_id, $ring->host,
                $ring->is_silenced ? $now : $ring->rang_at));
            if ($isSilenced) {
                $ring->is_silenced ? null : $ring->update(['is_silenced' => true]);

                continue;
            }
            $alert = $alerts->get($ring->alert_id ?? 0);
            [$from, $at] = $ring->is_silenced ? [$now, $now] : [$ring->from_at, $ring->rang_at];
            $incident = $this->fitting($cluster, $ring, $from, $at) ?? self::open($cluster, $ring, $alert, $from, $at, $now);
            $course = $incident->course();
            $isNew = ! isset($course->rings["{$ring->alert_id}\0{$ring->host}"]);
            $ring->update(['incident_id' => $incident->id]);
            $incident->update(['quiet_since' => $ring->to_at, 'last_at' => $isNew ? max($incident->last_at, $from) : $incident->last_at,
                'is_urgent' => $incident->is_urgent || $alert?->is_urgent === true]
                + self::second($incident, $alert, $now));
        }
    }

    private function fitting(Cluster $cluster, Ring $ring, int $from, int $at): ?Incident
    {
        foreach (Incident::open()->where('cluster_id', $cluster->id)->orderByDesc('opened_at')->get() as $incident) {
            if ($incident->course()->takes((string) $ring->alert_id, $from, $at)) {
                return $incident;
            }
        }

        return null;
    }

    private static function open(Cluster $cluster, Ring $ring, ?Alert $alert, int $from, int $at, int $now): Incident
    {
        return Incident::query()->create([
            'cluster_id' => $cluster->id, 'title' => $ring->said, 'opened_at' => $at, 'last_at' => $from, 'told' => 0,
            'told_at' => $now, 'is_urgent' => $alert->is_urgent ?? false,
        ]);
    }

    /**
     * The soonest second step of all alerts that rang, where nobody has taken the incident.
     *
     * @return array<string, int|null>
     */
    private static function second(Incident $incident, ?Alert $alert, int $now): array
    {
        if ($alert?->second_minutes === null || $alert->second_user_id === null || $incident->taken_at !== null) {
            return [];
        }
        $at = $now + 60 * $alert->second_minutes;

        return $incident->second_at !== null && $incident->second_at <= $at ? []
            : ['second_at' => $at, 'second_user_id' => $alert->second_user_id];
    }

    /**
     * @return list<array{Incident, IncidentEvent}> what is to be told
     */
    private function goOn(Cluster $cluster, int $clock, int $now): array
    {
        $told = [];
        foreach (Incident::open()->where('cluster_id', $cluster->id)->orderBy('id')->get() as $incident) {
            $course = $incident->course();
            $quiet = $course->ringing === [] ? $incident->rings()->max('to_at') : null;
            $incident->fill(['quiet_since' => $quiet === null ? null : (int) $quiet, 'title' => self::title($cluster, $incident)]);
            $event = match (true) {
                $incident->told === 0 => IncidentEvent::Began,
                $incident->course()->isOver($clock) => IncidentEvent::Over,
                $course->isGrown($now) => IncidentEvent::Grew,
                $incident->taken_at === null && $incident->second_told_at === null && $incident->second_at !== null
                    && $incident->second_at <= $now => IncidentEvent::Second,
                default => null,
            };
            match ($event) {
                IncidentEvent::Began, IncidentEvent::Grew => $incident->fill(['told' => count($course->rings), 'told_at' => $now]),
                IncidentEvent::Over => $incident->fill(['ended_at' => $incident->quiet_since]),
                IncidentEvent::Second => $incident->fill(['second_told_at' => $now]),
                default => null,
            };
            $incident->save();
            if ($event !== null) {
                $at = $event === IncidentEvent::Over ? $incident->ended_at : $now;
                IncidentAct::query()->create(['incident_id' => $incident->id, 'at' => $at, 'who' => 'Fulcrion',
                    'kind' => 'message', 'said' => $event->said($incident)]);
                $told[] = [$incident, $event];
            }
        }

        return $told;
    }

    private static function title(Cluster $cluster, Incident $incident): string
    {
        $rings = $incident->rings()->orderBy('rang_at')->orderBy('id')->get();
        $hosts = $rings->pluck('host')->filter(static fn (string $host): bool => $host !== '')->unique();
        $names = $rings->pluck('alert_name')->unique()->values();
        $first = $rings->first();
        $title = match (true) {
            $first === null => $incident->title,
            $hosts->count() > 1 => "{$hosts->count()} hosts of {$cluster->name}: {$names->first()}",
            default => "{$cluster->name}: {$first->said}",
        };

        return mb_strcut($title.($names->count() > 1 ? ', and '.($names->count() - 1).' more '
            .($names->count() === 2 ? 'alert' : 'alerts') : ''), 0, self::LONGEST);
    }
}
