<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Estate\EstateCalendar;
use App\Estate\Models\Cluster;
use App\Estate\Teams\TeamDirectory;
use App\Telemetry\Usage\ShownTime;
use App\Telemetry\Usage\UsageFold;
use App\Telemetry\Usage\UsageSums;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\TeamBook;
use Illuminate\Support\Facades\DB;

/**
 * Makes usage facts of a day and its hours from their load; an hour belongs to the day it begins in. Until a day is closed they follow
 * the load; afterwards what is found to be otherwise is a correction with a date of its own.
 */
final class DayFacts
{
    /** Hours are kept at least so long; sums of days stay. */
    private const HOURS_KEPT_DAYS = 400;

    /** Load ends by whole weeks. */
    private const RETENTION_BORDER_DAYS = 8;

    private ?TeamBook $book = null;

    /** @var array<string, int> */
    private array $teamIds = [];

    public function __construct(
        private readonly TeamDirectory $directory,
        private readonly Calendar $calendar,
        private readonly EstateCalendar $calendars,
    ) {
    }

    /**
     * @param  int  $dayAt start of the day, as a date of the estate's calendar
     * @return DayOutcome what became of it
     */
    public function make(Cluster $cluster, int $dayAt, int $now): DayOutcome
    {
        $known = DB::table('usage_days')->where('cluster_id', $cluster->id)->where('day_at', $dayAt)->first();
        if ($known !== null && $known->closed_at !== null) {
            return $this->correct($cluster, $dayAt, $now);
        }
        $isOver = $now >= $this->calendar->end($dayAt) + Calendar::CLOSED_AFTER_SECONDS;

        return DB::transaction(function () use ($cluster, $dayAt, $now, $isOver): DayOutcome {
            if (! $this->calendars->isStill($this->calendar)) {
                return DayOutcome::Unchanged;
            }
            DB::table('usage_hours')->where('cluster_id', $cluster->id)->where('day_at', $dayAt)->delete();
            foreach ($this->teams($cluster, $dayAt) as $team => $logins) {
                $this->insert($cluster, $dayAt, $team, $logins);
            }
            DB::table('usage_days')->upsert(
                ['cluster_id' => $cluster->id, 'day_at' => $dayAt, 'closed_at' => $isOver ? $now : null],
                ['cluster_id', 'day_at'],
                ['closed_at'],
            );
            self::sum($cluster, $dayAt);

            return $isOver ? DayOutcome::Closed : DayOutcome::Open;
        });
    }

    /** What came since it was closed, or was taken away from it; nothing where the load is as the facts say. */
    private function correct(Cluster $cluster, int $dayAt, int $now): DayOutcome
    {
        // Of a day whose load has begun to go nobody can say what it lacks.
        if ($this->calendar->begin($dayAt) < $now - $cluster->retention_days * Days::DAY) {
            return DayOutcome::Unchanged;
        }
        $today = $this->calendar->day($now);
        $rows = DB::transaction(function () use ($cluster, $dayAt, $now, $today): int {
            if (! $this->calendars->isStill($this->calendar)) {
                return 0;
            }
            $rows = 0;
            foreach ($this->teams($cluster, $dayAt) as $team => $logins) {
                $rows += $this->insertDifference($cluster, $dayAt, $team, $logins, $today);
            }
            if ($rows > 0) {
                DB::table('usage_days')->where('cluster_id', $cluster->id)->where('day_at', $dayAt)->update(['corrected_at' => $now]);
                self::sum($cluster, $dayAt, $today);
            }

            return $rows;
        });

        return $rows > 0 ? DayOutcome::Corrected : DayOutcome::Unchanged;
    }

    /**
     * Puts hours into the days of another calendar, those before the first whole day of them as well; what is known of days only stays
     * as it is, so that nothing is counted twice and nothing is lost. To be called in a transaction, in which the calendar was set.
     */
    public function regroup(Cluster $cluster, int $now): void
    {
        $first = DB::table('usage_hours')->where('cluster_id', $cluster->id)->selectRaw('MIN(day_at) AS day, MIN(hour_at) AS hour, '
            .'MAX(hour_at) AS last')->first();
        if ($first?->day === null) {
            return;
        }
        // Days before are known as days only, and are over there.
        $older = DB::table('usage_days')->where('cluster_id', $cluster->id)->where('day_at', '<', $first->day)->max('day_at');
        $from = $older === null ? 0 : (int) $older + Days::DAY;
        $day = ShownTime::day($this->calendar, 'hour_at', (int) $first->hour, (int) $first->last);
        DB::update("UPDATE usage_hours SET day_at = GREATEST(?, {$day}) WHERE cluster_id = ?", [$from, $cluster->id]);
        $earlier = DB::table('usage_days')->where('cluster_id', $cluster->id)->where('day_at', '>=', $from)->get()->keyBy('day_at');
        $days = DB::table('usage_hours')->where('cluster_id', $cluster->id)->distinct()->pluck('day_at')->flip();
        foreach (array_keys($days->all() + $earlier->all()) as $at) {
            $known = $earlier[$at] ?? null;
            $isOver = $now >= $this->calendar->end((int) $at) + Calendar::CLOSED_AFTER_SECONDS;
            DB::table('usage_days')->where('cluster_id', $cluster->id)->where('day_at', $at)->delete();
            if (isset($days[$at])) {
                DB::table('usage_days')->insert([
                    'cluster_id' => $cluster->id, 'day_at' => $at, 'closed_at' => $isOver ? $known->closed_at ?? $now : null,
                    'corrected_at' => $known?->corrected_at,
                ]);
            }
            self::sum($cluster, (int) $at);
        }
        UsageSums::spans($cluster, $this->calendar->shown($now));
    }

    /** Ends hours that are not kept any more; the sums of their days stay. */
    public function prune(Cluster $cluster, int $now): void
    {
        $kept = max(self::HOURS_KEPT_DAYS, $cluster->retention_days + self::RETENTION_BORDER_DAYS);
        DB::table('usage_hours')->where('cluster_id', $cluster->id)
            ->where('day_at', '<', $this->calendar->day($now) - $kept * Days::DAY)
            ->delete();
    }

    /**
     * Adds up the hours of a day.
     *
     * @param  int|null  $correctedAt those of a correction only; null for all
     */
    private static function sum(Cluster $cluster, int $dayAt, ?int $correctedAt = null): void
    {
        $names = array_keys(UsageFold::SOURCES);
        $sums = implode(', ', array_map(static fn (string $name): string => "SUM({$name})", $names));
        $only = $correctedAt === null ? '' : " AND corrected_at = {$correctedAt}";
        DB::delete("DELETE FROM usage_facts WHERE day_at = ? AND cluster_id = ?{$only}", [$dayAt, $cluster->id]);
        DB::insert(
            'INSERT INTO usage_facts (day_at, cluster_id, team_id, origin_id, statement_id, corrected_at, '.implode(', ', $names).
                ') SELECT day_at, cluster_id, team_id, origin_id, statement_id, corrected_at, '."{$sums} FROM usage_hours WHERE "
                ."cluster_id = ? AND day_at = ?{$only} GROUP BY day_at, cluster_id, team_id, origin_id, statement_id, corrected_at",
            [$cluster->id, $dayAt],
        );
        $busyUs = DB::scalar(
            'SELECT COALESCE(SUM(LEAST(3600000000, us)), 0) FROM (SELECT SUM(in_flight_us) AS us FROM usage_hours WHERE cluster_id = ? '
                .'AND day_at = ? GROUP BY hour_at) h',
            [$cluster->id, $dayAt],
        );
        DB::table('usage_days')->where('cluster_id', $cluster->id)->where('day_at', $dayAt)->update(['busy_us' => (int) $busyUs]);
        UsageSums::day($cluster->id, $dayAt);
    }

    /**
     * @return array<string, list<string>> logins by team, of those that used it on that day
     */
    private function teams(Cluster $cluster, int $dayAt): array
    {
        $this->book ??= new TeamBook($this->directory->memberships());
        $logins = DB::table('load_by_origin_hour')
            ->join('origins', 'origins.id', '=', 'load_by_origin_hour.origin_id')
            ->where('cluster_id', $cluster->id)
            ->where('bucket_at', '>=', $this->calendar->begin($dayAt))
            ->where('bucket_at', '<', $this->calendar->end($dayAt))
            ->distinct()
            ->pluck('user_name');
        $teams = [];
        foreach ($logins as $login) {
            $teams[$this->book->on((string) $login, $this->calendar->end($dayAt))][] = (string) $login;
        }

        return $teams;
    }

    /**
     * @param  list<string>  $logins
     */
    private function insert(Cluster $cluster, int $dayAt, string $team, array $logins): void
    {
        $marks = implode(', ', array_fill(0, count($logins), '?'));
        DB::insert(
            'INSERT INTO usage_hours (hour_at, cluster_id, team_id, origin_id, statement_id, day_at, '.
                implode(', ', array_keys(UsageFold::SOURCES)).') SELECT l.bucket_at, l.cluster_id, ?, l.origin_id, l.statement_id, ?, '.
                implode(', ', UsageFold::SOURCES).' FROM load_hour l JOIN origins o ON o.id = l.origin_id WHERE l.cluster_id = ? AND '
                ."l.bucket_at >= ? AND l.bucket_at < ? AND o.user_name IN ({$marks})",
            [$this->teamId($team), $dayAt, $cluster->id, $this->calendar->begin($dayAt), $this->calendar->end($dayAt), ...$logins],
        );
    }

    /**
     * @param  list<string>  $logins
     */
    private function insertDifference(Cluster $cluster, int $dayAt, string $team, array $logins, int $today): int
    {
        $marks = implode(', ', array_fill(0, count($logins), '?'));
        $names = array_keys(UsageFold::SOURCES);
        $differences = $conditions = $updates = $sums = [];
        foreach (UsageFold::SOURCES as $name => $source) {
            $differences[] = "CAST({$source} AS SIGNED) - COALESCE(f.{$name}, 0)";
            $conditions[] = "CAST({$source} AS SIGNED) != COALESCE(f.{$name}, 0)";
            $updates[] = "{$name} = usage_hours.{$name} + VALUES({$name})";
            $sums[] = "SUM({$name}) AS {$name}";
        }

        // What outlived its retention is no correction: only what the load has is held against the facts.
        return DB::affectingStatement(
            'INSERT INTO usage_hours (hour_at, cluster_id, team_id, origin_id, statement_id, corrected_at, day_at, '.
                implode(', ', $names).') SELECT l.bucket_at, l.cluster_id, ?, l.origin_id, l.statement_id, ?, ?, '.
                implode(', ', $differences).' FROM load_hour l JOIN origins o ON o.id = l.origin_id LEFT JOIN (SELECT hour_at, origin_id, '
                .'statement_id, '.implode(', ', $sums).' FROM usage_hours WHERE cluster_id = ? AND day_at = ? GROUP BY hour_at, '
                .'origin_id, statement_id) f ON f.hour_at = l.bucket_at AND f.origin_id = l.origin_id AND f.statement_id = '
                ."l.statement_id WHERE l.cluster_id = ? AND l.bucket_at >= ? AND l.bucket_at < ? AND o.user_name IN ({$marks}) AND ("
                .implode(' OR ', $conditions).') ON DUPLICATE KEY UPDATE '.implode(', ', $updates),
            [
                $this->teamId($team), $today, $dayAt, $cluster->id, $dayAt, $cluster->id, $this->calendar->begin($dayAt),
                $this->calendar->end($dayAt), ...$logins,
            ],
        );
    }

    private function teamId(string $team): int
    {
        if (! isset($this->teamIds[$team])) {
            $name = mb_strcut($team, 0, 120);
            DB::table('usage_teams')->insertOrIgnore(['name' => $name]);
            $this->teamIds[$team] = (int) DB::table('usage_teams')->where('name', $name)->value('id');
        }

        return $this->teamIds[$team];
    }
}
