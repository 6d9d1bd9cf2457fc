<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use App\Estate\Models\Cluster;
use App\Estate\Teams\TeamDirectory;
use Fulcrion\Core\Usage\TeamBook;
use Illuminate\Support\Facades\DB;

/**
 * Makes usage facts of a day from its load. Until a day is closed they follow the load; afterwards what is found to be otherwise is a
 * correction with a date of its own.
 */
final class DayFacts
{
    public const DAY = 86_400;

    /** A day is closed so long after its end. */
    public const PATIENCE_SECONDS = 3_600;

    /** Where each measure comes from in the sums of load. */
    public const SOURCES = [
        'executions' => 'l.executions',
        'in_flight_us' => 'l.load_us',
        'cpu_us' => 'l.cpu_us',
        'queued_us' => 'l.queued_us',
        'bytes_scanned' => 'l.bytes_scanned',
        'bytes_spilled' => 'l.bytes_spilled',
        'rows_returned' => 'l.rows_returned',
        'errors' => 'l.errors + l.cancelled + l.timed_out',
    ];

    private ?TeamBook $book = null;

    /** @var array<string, int> */
    private array $teamIds = [];

    public function __construct(private readonly TeamDirectory $directory)
    {
    }

    /**
     * @param  int  $dayAt start of the day, in Unix seconds
     * @return DayOutcome what became of it
     */
    public function make(Cluster $cluster, int $dayAt, int $now): DayOutcome
    {
        $known = DB::table('usage_days')->where('cluster_id', $cluster->id)->where('day_at', $dayAt)->first();
        if ($known !== null && $known->closed_at !== null) {
            return $this->correct($cluster, $dayAt, $now);
        }
        $isOver = $now >= $dayAt + self::DAY + self::PATIENCE_SECONDS;
        DB::transaction(function () use ($cluster, $dayAt, $now, $isOver): void {
            DB::table('usage_facts')->where('day_at', $dayAt)->where('cluster_id', $cluster->id)->delete();
            foreach ($this->teams($cluster, $dayAt) as $team => $logins) {
                $this->insert($cluster, $dayAt, $team, $logins);
            }
            DB::table('usage_days')->upsert(
                ['cluster_id' => $cluster->id, 'day_at' => $dayAt, 'closed_at' => $isOver ? $now : null],
                ['cluster_id', 'day_at'],
                ['closed_at'],
            );
            UsageSums::day($cluster->id, $dayAt);
        });

        return $isOver ? DayOutcome::Closed : DayOutcome::Open;
    }

    /** What came since it was closed, or was taken away from it; nothing where the load is as the facts say. */
    private function correct(Cluster $cluster, int $dayAt, int $now): DayOutcome
    {
        $today = $now - $now % self::DAY;
        $rows = DB::transaction(function () use ($cluster, $dayAt, $now, $today): int {
            $rows = 0;
            foreach ($this->teams($cluster, $dayAt) as $team => $logins) {
                $rows += $this->insertDifference($cluster, $dayAt, $team, $logins, $today);
            }
            if ($rows > 0) {
                DB::table('usage_days')->where('cluster_id', $cluster->id)->where('day_at', $dayAt)->update(['corrected_at' => $now]);
                UsageSums::day($cluster->id, $dayAt);
            }

            return $rows;
        });

        return $rows > 0 ? DayOutcome::Corrected : DayOutcome::Unchanged;
    }

    /**
     * @return array<string, list<string>> logins by team, of those that used it on that day
     */
    private function teams(Cluster $cluster, int $dayAt): array
    {
        $this->book ??= new TeamBook($this->directory->memberships());
        $logins = DB::table('load_day')
            ->join('origins', 'origins.id', '=', 'load_day.origin_id')
            ->where('cluster_id', $cluster->id)
            ->where('bucket_at', $dayAt)
            ->distinct()
            ->pluck('user_name');
        $teams = [];
        foreach ($logins as $login) {
            $teams[$this->book->on((string) $login, $dayAt + self::DAY)][] = (string) $login;
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
            'INSERT INTO usage_facts (day_at, cluster_id, team_id, origin_id, statement_id, '.implode(', ', array_keys(self::SOURCES)).
                ') SELECT l.bucket_at, l.cluster_id, ?, l.origin_id, l.statement_id, '.implode(', ', self::SOURCES).
                ' FROM load_day l JOIN origins o ON o.id = l.origin_id WHERE l.cluster_id = ? AND l.bucket_at = ? AND '
                ."o.user_name IN ({$marks})",
            [$this->teamId($team), $cluster->id, $dayAt, ...$logins],
        );
    }

    /**
     * @param  list<string>  $logins
     */
    private function insertDifference(Cluster $cluster, int $dayAt, string $team, array $logins, int $today): int
    {
        $marks = implode(', ', array_fill(0, count($logins), '?'));
        $names = array_keys(self::SOURCES);
        $differences = $conditions = $updates = $sums = [];
        foreach (self::SOURCES as $name => $source) {
            $differences[] = "CAST({$source} AS SIGNED) - COALESCE(f.{$name}, 0)";
            $conditions[] = "CAST({$source} AS SIGNED) != COALESCE(f.{$name}, 0)";
            $updates[] = "{$name} = usage_facts.{$name} + VALUES({$name})";
            $sums[] = "SUM({$name}) AS {$name}";
        }

        // What outlived its retention is no correction: only what the load has is held against the facts.
        return DB::affectingStatement(
            'INSERT INTO usage_facts (day_at, cluster_id, team_id, origin_id, statement_id, corrected_at, '.implode(', ', $names).
                ') SELECT l.bucket_at, l.cluster_id, ?, l.origin_id, l.statement_id, ?, '.implode(', ', $differences).
                ' FROM load_day l JOIN origins o ON o.id = l.origin_id LEFT JOIN (SELECT origin_id, statement_id, '.implode(', ', $sums).
                ' FROM usage_facts WHERE day_at = ? AND cluster_id = ? GROUP BY origin_id, statement_id) f ON '
                .'f.origin_id = l.origin_id AND f.statement_id = l.statement_id '
                ."WHERE l.cluster_id = ? AND l.bucket_at = ? AND o.user_name IN ({$marks}) AND ("
                .implode(' OR ', $conditions).') ON DUPLICATE KEY UPDATE '.implode(', ', $updates),
            [$this->teamId($team), $today, $dayAt, $cluster->id, $cluster->id, $dayAt, ...$logins],
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
