<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Alerts\Models\Alert;
use App\Alerts\Models\Incident;
use App\Alerts\Models\IncidentAct;
use App\Alerts\Models\Ring;
use App\Alerts\Models\Silence;
use App\Estate\Models\Cluster;
use App\Metrics\Signals\Signal;
use App\Metrics\Signals\SignalSources;
use Fulcrion\Core\Alerts\AlertRing;
use Fulcrion\Core\Alerts\IncidentCourse;
use Illuminate\Support\Facades\DB;

/**
 * Puts rings into incidents, and says so: one word when an incident begins, one when it has grown to twice its size, one when it is over.
 */
final readonly class IncidentBook
{
    private const LONGEST = 300;

    private const AT_ONCE = 500;

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
            $signals = $started === [] && $ended === [] ? [] : $this->sources->byKey($cluster);
            $this->begin($cluster, $started, $signals);
            foreach ($ended as [$alert, $ring]) {
                $said = AlertWords::ring($alert, $ring, $signals[$alert->signal] ?? null);
                Ring::query()->where('alert_id', $alert->id)->where('host', $ring->host)->where('from_at', $ring->from)
                    ->update(['to_at' => $ring->to, 'worst' => $ring->worst, 'said' => mb_strcut($said, 0, self::LONGEST)]);
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

    /**
     * @param  list<array{Alert, AlertRing}>  $started
     * @param  array<string, Signal>  $signals by key
     */
    private function begin(Cluster $cluster, array $started, array $signals): void
    {
        $rows = array_map(static fn (array $one): array => [
            'alert_id' => $one[0]->id, 'cluster_id' => $cluster->id, 'alert_name' => $one[0]->name,
            'host' => mb_strcut($one[1]->host, 0, 120), 'from_at' => $one[1]->from, 'rang_at' => $one[1]->rangAt, 'to_at' => null,
            'worst' => $one[1]->worst, 'is_silenced' => false,
            'said' => mb_strcut(AlertWords::ring($one[0], $one[1], $signals[$one[0]->signal] ?? null), 0, self::LONGEST),
        ], $started);
        foreach (array_chunk($rows, self::AT_ONCE) as $some) {
            Ring::query()->insertOrIgnore($some);
        }
    }

    /** Rings without an incident get into one, unless they are silenced. */
    private function gather(Cluster $cluster, int $now): void
    {
        $rings = Ring::query()->where('cluster_id', $cluster->id)->whereNull('incident_id')
            // What began and ended in silence stays out of it.
            ->where(static fn ($query) => $query->where('is_silenced', false)->orWhereNull('to_at'))->orderBy('rang_at')->get();
        if ($rings->isEmpty()) {
            return;
        }
        $silences = Silence::query()->get();
        $alerts = Alert::query()->where('cluster_id', $cluster->id)->get()->keyBy('id');
        $open = $courses = $taken = [];
        foreach (Incident::open()->where('cluster_id', $cluster->id)->orderBy('opened_at')->get() as $one) {
            [$open[], $courses[]] = [$one, $one->course()];
        }
        $silenced = [];
        foreach ($rings as $ring) {
            $isSilenced = $silences->contains(static fn (Silence $one): bool => $one->covers($cluster->id, $ring->alert_id, $ring->host,
                $ring->is_silenced ? $now : $ring->rang_at));
            if ($isSilenced) {
                $silenced[] = $ring->id;

                continue;
            }
            [$from, $at] = $ring->is_silenced ? [$now, $now] : [$ring->from_at, $ring->rang_at];
            $alert = $alerts->get($ring->alert_id ?? 0);
            $place = self::fitting($courses, (string) $ring->alert_id, $from, $at);
            if ($place === null) {
                $place = count($open);
                $open[] = self::open($cluster, $ring, $alert, $from, $at, $now);
                $courses[] = IncidentCourse::opened((string) $ring->alert_id, $ring->host, $from, $at);
            }
            $incident = $open[$place];
            $courses[$place] = $courses[$place]->rang((string) $ring->alert_id, $ring->host, $from);
            $taken[$place][] = $ring->id;
            $incident->fill(['is_urgent' => $incident->is_urgent || $alert?->is_urgent === true] + self::second($incident, $alert, $now));
        }
        foreach ($taken as $place => $ids) {
            $incident = $open[$place];
            $incident->fill(['last_at' => $courses[$place]->lastAt])->save();
            foreach (array_chunk($ids, self::AT_ONCE) as $some) {
                Ring::query()->whereIn('id', $some)->update(['incident_id' => $incident->id]);
            }
        }
        foreach (array_chunk($silenced, self::AT_ONCE) as $some) {
            Ring::query()->whereIn('id', $some)->update(['is_silenced' => true]);
        }
    }

    /**
     * @param  array<int, IncidentCourse>  $courses
     * @return int|null place of the newest one a ring belongs to
     */
    private static function fitting(array $courses, string $alert, int $from, int $at): ?int
    {
        for ($place = count($courses) - 1; $place >= 0; $place--) {
            if ($courses[$place]->takes($alert, $from, $at)) {
                return $place;
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
                $course->calmSince($incident->quiet_since)->isOver($clock) => IncidentEvent::Over,
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
        $first = $incident->rings()->orderBy('rang_at')->orderBy('id')->first();
        $hosts = $incident->rings()->where('host', '!=', '')->distinct()->count('host');
        $names = $incident->rings()->distinct()->count('alert_name');
        $title = match (true) {
            $first === null => $incident->title,
            $hosts > 1 => "{$hosts} hosts of {$cluster->name}: {$first->alert_name}",
            default => "{$cluster->name}: {$first->said}",
        };

        return mb_strcut($title.($names > 1 ? ', and '.($names - 1).' more '
            .($names === 2 ? 'alert' : 'alerts') : ''), 0, self::LONGEST);
    }
}
