<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Alerts\Charts\LanesFigure;
use App\Alerts\Models\Incident;
use App\Alerts\Models\IncidentAct;
use App\Alerts\Models\Ring;
use App\Estate\EstateCalendar;
use App\Metrics\Signals\Signal;
use App\Metrics\Signals\SignalSources;
use App\Platform\Figures\Figure;
use App\Platform\Figures\TimeMarks;
use App\Platform\Support\MomentStyle;
use App\Platform\Support\Sql;
use DateTimeZone;
use Fulcrion\Core\Alerts\Watched;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;

/**
 * Everything about an incident: what rang, what was done and set around it, which statements were new, and what was otherwise than usual.
 */
final readonly class IncidentPage
{
    private const BEFORE = 2 * 3_600;

    private const AFTER = 1_800;

    private const LONGEST = 3 * 86_400;

    private const MOST_HOSTS = 12;

    private const MOST_STATEMENTS = 30;

    private const MOST_DIFFERENT = 8;

    /** So many times as much as usual, or as little, is told. */
    private const DIFFERENT = 1.5;

    /** What happened to a cluster, by the lane it stands in. */
    private const LANES = ['changes' => 'Changes', 'settings' => 'Settings', 'deploys' => 'Deploys', 'server' => 'Server',
        'events' => 'Events'];

    public function __construct(private TimeMarks $marks, private SignalSources $sources, private AlertValues $values,
        private EstateCalendar $calendar)
    {
    }

    /**
     * @return array{figure: Figure, rings: list<Ring>, acts: list<IncidentAct>, statements: list<array{string, string, int}>,
     *     different: list<array{Signal, string, float, float}>, sentence: string} statements as fingerprint, text and first second; what
     *     was different as signal, host, times the usual and value
     */
    public function of(Incident $incident, int $now, DateTimeZone $zone): array
    {
        $rings = array_values($incident->rings()->orderBy('rang_at')->orderBy('id')->get()->all());
        $acts = array_values(IncidentAct::query()->where('incident_id', $incident->id)->orderBy('at')->orderBy('id')->get()->all());
        $began = min([$incident->opened_at, ...array_map(static fn (Ring $ring): int => $ring->from_at, $rings)]);
        $ended = $incident->ended_at ?? $now;
        $from = max($began - self::BEFORE, $ended - self::LONGEST);
        $to = min($now, $ended + self::AFTER);
        $statements = $this->statements($incident->cluster_id, $began, $to);

        return [
            'figure' => $this->figure($incident, $rings, $acts, $statements, $from, max($to, $from + 3_600), $zone),
            'rings' => $rings, 'acts' => $acts, 'statements' => $statements,
            'different' => $this->different($incident, $began, $ended),
            'sentence' => self::sentence($incident, $rings, $began, $ended),
        ];
    }

    /**
     * @param  list<Ring>  $rings
     */
    private static function sentence(Incident $incident, array $rings, int $began, int $ended): string
    {
        $for = Quantity::duration(($ended - $began) * 1e6);
        $open = count(array_filter($rings, static fn (Ring $ring): bool => $ring->to_at === null));

        return match (true) {
            ! $incident->isOpen() => "{$incident->title}: over after {$for}",
            $open === 0 => "{$incident->title}: it is calm, and over when it stays so",
            default => "{$incident->title}: for {$for}, and it goes on",
        };
    }

    /**
     * @param  list<Ring>  $rings
     * @param  list<IncidentAct>  $acts
     * @param  list<array{string, string, int}>  $statements
     */
    private function figure(
        Incident $incident,
        array $rings,
        array $acts,
        array $statements,
        int $from,
        int $to,
        DateTimeZone $zone,
    ): Figure {
        $byName = [];
        foreach ($rings as $ring) {
            $byName[$ring->host === '' ? $ring->alert_name : $ring->host][] = [
                $ring->from_at, $ring->to_at ?? $to, "{$ring->alert_name}: {$ring->said}", $incident->is_urgent ? 'urgent' : '',
            ];
        }
        $lanes = [];
        foreach (array_slice($byName, 0, self::MOST_HOSTS, true) as $name => $items) {
            $lanes[] = [(string) $name, $items];
        }
        if (count($byName) > self::MOST_HOSTS) {
            $lanes[] = [(count($byName) - self::MOST_HOSTS).' more',
                array_merge(...array_values(array_slice($byName, self::MOST_HOSTS)))];
        }
        $kinds = $this->marks->kinds($incident->cluster_id, $from, $to);
        foreach (self::LANES as $kind => $name) {
            $items = [];
            foreach ($kinds[$kind] ?? [] as $at => $said) {
                $items[] = [$at, null, $said, 'set'];
            }
            if ($items !== [] || $kind === 'changes') {
                $lanes[] = [$name, $items];
            }
        }
        $within = array_filter($statements, static fn (array $one): bool => $one[2] >= $from);
        $lanes[] = ['New statements', array_values(array_map(
            static fn (array $one): array => [$one[2], null, $one[1], 'set'], $within))];
        $lanes[] = ['Messages and people', array_map(static fn (IncidentAct $act): array => [$act->at, null,
            $act->kind === 'message' ? $act->said : "{$act->who}: {$act->said}", $act->kind === 'message' ? 'told' : 'done'], $acts)];

        return LanesFigure::draw('incident', 'What happened when', $incident->title.'.', 'Bars are times in which an alert rang; marks are '
            .'what happened once. What is above one another was at the same time, which need not be cause and effect.',
            $lanes, $from, $to, $zone);
    }

    /**
     * @return list<array{string, string, int}> that ran for the first time on the day of the incident, the newest last
     */
    private function statements(int $clusterId, int $began, int $to): array
    {
        $day = $began - 86_400;
        $rows = DB::table('statement_presence as p')->join('statements as s', 's.id', '=', 'p.statement_id')
            ->where('p.cluster_id', $clusterId)->where('p.first_us', '>=', $day * 1_000_000)->where('p.first_us', '<', $to * 1_000_000)
            ->orderByDesc('p.first_us')->limit(self::MOST_STATEMENTS)->get(['s.fingerprint', 's.text', 'p.first_us']);
        $statements = [];
        foreach ($rows->reverse() as $row) {
            $statements[] = [(string) $row->fingerprint, Sql::line((string) $row->text, 120), intdiv((int) $row->first_us, 1_000_000)];
        }

        return $statements;
    }

    /**
     * @return list<array{Signal, string, float, float}> the furthest from the usual first
     */
    private function different(Incident $incident, int $began, int $ended): array
    {
        $step = SignalSources::step($incident->cluster);
        $from = $began - $began % $step;
        $to = max($from + 6 * $step, min($ended, $from + 6 * 3_600));
        $zone = $this->calendar->read()->zone;
        $different = [];
        foreach ($this->sources->of($incident->cluster) as $signal) {
            // What hosts tell of their own accord is not gone through one by one.
            if (str_starts_with($signal->key, 'host:metric.') || str_starts_with($signal->key, 'event:')) {
                continue;
            }
            $read = fn (Watched $watched): array => $this->values->of($incident->cluster, $signal->key, null, $watched, $from, $to, $step,
                $zone);
            $values = $read(Watched::Value);
            $most = null;
            foreach ($read(Watched::Usual) as $host => $times) {
                $known = Spread::known($times);
                $middle = $known === [] ? null : Spread::median($known);
                if ($middle !== null && $middle > 0.0 && ($most === null || abs(log($middle)) > abs(log($most[2])))) {
                    $most = [$signal, (string) $host, $middle, Spread::median(Spread::known($values[$host] ?? []))];
                }
            }
            if ($most !== null && abs(log($most[2])) >= log(self::DIFFERENT)) {
                $different[] = $most;
            }
        }
        usort($different, static fn (array $a, array $b): int => abs(log($b[2])) <=> abs(log($a[2])));

        return array_slice($different, 0, self::MOST_DIFFERENT);
    }

    public static function about(Incident $incident, DateTimeZone $zone): string
    {
        return "incident {$incident->id} · cluster {$incident->cluster->name} · "
            .moment($incident->opened_at * 1_000_000, MomentStyle::Second, $zone)." ({$zone->getName()})";
    }
}
