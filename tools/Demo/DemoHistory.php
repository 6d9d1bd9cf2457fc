<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Core\Statistics\NormalDraw;
use Generator;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Twenty-eight days of executions, ending at a given moment, in order of time. The same seed and moment give the same
 * records. What a statement reads and how long it takes comes from a run of it on the practice cluster; how that varies,
 * who runs it when, and what goes wrong is made up here.
 */
final class DemoHistory
{
    public const DAYS = 28;

    /** The day of the history on which nothing was answered for a while, counted from 1, and when. */
    public const OUTAGE_DAY = 25;

    private const OUTAGE_AT = 10 * 3_600 + 121;

    public const OUTAGE_SECONDS = 720;

    private const SLOT = 300;

    /** First day on which the plan of the pick summary is the bad one. */
    public const PLAN_CHANGE_DAY = 17;

    /** Nodes of the cluster, and what the disk of each reads. */
    private const NODES = 12;

    private const DISK_BYTES_PER_SECOND = 2_000_000_000;

    private const HOSTS = [
        'agronomy' => ['desk-fern-01', 'desk-fern-02', 'desk-fern-07', 'tablet-bay-3'],
        'packhouse' => ['dock-01', 'dock-02', 'dock-03', 'desk-pack-05'],
        'energy_desk' => ['desk-heat-01', 'desk-heat-02'],
        'grower_relations' => ['desk-letter-01', 'desk-letter-02'],
        'forecast_lab' => ['lab-01', 'lab-02'],
        'loaders' => ['loader-a'],
        'boards' => ['board-hub'],
        'platform' => ['desk-platform-01'],
    ];

    /** Runs people start in a busy five minutes. */
    private const PEOPLE = [
        'agronomy' => 27.0,
        'packhouse' => 43.0,
        'energy_desk' => 17.0,
        'grower_relations' => 12.0,
        'forecast_lab' => 2.2,
        'platform' => 2.5,
    ];

    /** Seconds of the day at which the complaint's statement runs: 11:00, 11:05 and 11:10. */
    private const COMPLAINTS = [39_600, 39_900, 40_200];

    private const COMPLAINED = 'SELECT m.site, sum(m.kwh * t.price) AS heat_cost';

    /** Times as much as it used to read. */
    private const MORE_READ = 30;

    private const ERRORS = [
        'division by zero in expression 3',
        'value out of range for type decimal(9,2)',
        'table field.crop_plan does not exist',
        'permission denied for table people.crew_member',
    ];

    private const WARNINGS = [
        'implicit conversion of text to timestamp',
        'division by zero replaced by null',
        'value truncated to 120 characters',
    ];

    private readonly Randomizer $random;

    /** @var array<string, list<DemoStatement>> */
    private array $byTeam = [];

    /** @var array<string, list<float>> running sums of weights */
    private array $weights = [];

    /** @var list<DemoStatement> */
    private array $statements = [];

    private readonly int $start;

    private readonly LegacyNights $legacy;

    /**
     * @param  int  $now Unix seconds
     * @param  float  $scale share of the people's runs to make; 1.0 is the full scenario
     * @param  array<string, array{PlanTotals, int, Plan}>  $measured template => what a run on the practice cluster counted,
     *     rows returned, its plan
     */
    public function __construct(
        private readonly int $now,
        int $seed = 46,
        private readonly float $scale = 1.0,
        private readonly bool $rehearsal = false,
        array $measured = [],
    ) {
        $this->random = new Randomizer(new Mt19937($seed));
        $this->legacy = new LegacyNights();
        $this->start = $now - ($now % 86_400) - (self::DAYS - 1) * 86_400;
        foreach (Repertoire::all() as $statement) {
            $known = $measured[$statement->template] ?? null;
            $this->statements[] = $statement = $known === null ? $statement : $statement->measured($known[0], $known[1]);
            if ($statement->everyMinutes === 0 && $statement->nightlyAt < 0 && $statement->weight > 0) {
                $this->byTeam[$statement->team][] = $statement;
            }
        }
        foreach ($this->byTeam as $team => $statements) {
            $sum = 0.0;
            foreach ($statements as $rank => $statement) {
                $this->weights[$team][] = $sum += $statement->weight / (1 + $rank / 8);
            }
        }
    }

    /**
     * @return Generator<int, array<string, mixed>> execution records
     */
    public function records(): Generator
    {
        for ($slot = $this->start; $slot < $this->now; $slot += self::SLOT) {
            $records = [...$this->rehearsal ? [] : $this->scheduled($slot), ...$this->people($slot)];
            if (! $this->rehearsal) {
                array_push($records, ...$this->legacy->of($slot, $this->day($slot)), ...$this->complaint($slot));
            }
            usort($records, static fn (array $a, array $b): int => $a['at'] <=> $b['at']);
            foreach ($records as $record) {
                $at = $record['at'];
                if ($at < $this->now * 1_000_000 && ! ($this->rehearsal && $this->isSilent(intdiv($at, 1_000_000)))) {
                    unset($record['at']);
                    yield ['started_at' => gmdate('Y-m-d\TH:i:s', intdiv($at, 1_000_000)).sprintf('.%06dZ', $at % 1_000_000)] + $record;
                }
            }
        }
    }

    /**
     * @return list<array<string, mixed>&array{at: int}>
     */
    private function scheduled(int $slot): array
    {
        $records = [];
        $minute = intdiv($slot % 86_400, 60);
        foreach ($this->statements as $i => $statement) {
            if ($statement->everyMinutes > 0 && $minute % $statement->everyMinutes === 0) {
                // A stagger of its own keeps jobs of one rhythm from starting in the same second.
                $records[] = $this->run($statement, $slot * 1_000_000 + (($i * 7) % 60) * 1_000_000 + $this->random->getInt(0, 900_000));
            } elseif ($statement->nightlyAt >= 0 && intdiv($statement->nightlyAt, 5) * 5 === $minute) {
                $records[] = $this->run(
                    $statement,
                    ($slot + ($statement->nightlyAt % 5) * 60) * 1_000_000 + $this->random->getInt(0, 20_000_000),
                );
            } elseif (
                $statement->trouble === Repertoire::CROSS_JOIN &&
                in_array([$this->day($slot), $minute], [[16, 620], [18, 1_390], [19, 905]], true)
            ) {
                $records[] = $this->run($statement, $slot * 1_000_000 + $this->random->getInt(0, 200_000_000));
            }
        }

        return $records;
    }

    /**
     * @return list<array<string, mixed>&array{at: int}>
     */
    private function people(int $slot): array
    {
        $records = [];
        foreach (self::PEOPLE as $team => $busiest) {
            $expected = $busiest * $this->busyness($team, $slot) * $this->scale;
            if ($team === 'energy_desk' && $this->day($slot) > 21) {
                $expected *= 2 / 3;
            }
            if ($team === 'forecast_lab' && self::isMondayMorning($slot)) {
                $expected *= 3.0;
            }
            for ($n = $this->poisson($expected); $n > 0; $n--) {
                $pick = $this->uniform() * $this->weights[$team][count($this->weights[$team]) - 1];
                $low = 0;
                for ($high = count($this->weights[$team]) - 1; $low < $high;) {
                    $middle = intdiv($low + $high, 2);
                    if ($this->weights[$team][$middle] < $pick) {
                        $low = $middle + 1;
                    } else {
                        $high = $middle;
                    }
                }
                $records[] = $this->run(
                    $this->byTeam[$team][$low],
                    $slot * 1_000_000 + $this->random->getInt(0, self::SLOT * 1_000_000 - 1),
                );
            }
        }

        return $records;
    }

    /**
     * @return array<string, mixed>&array{at: int}
     */
    private function run(DemoStatement $statement, int $at): array
    {
        $second = intdiv($at, 1_000_000);
        $day = $this->day($second);
        $noise = $statement->nightlyAt >= 0 ? 0.06 : ($statement->everyMinutes > 0 ? 0.12 : 0.35);
        $factor = exp($noise * $this->normal());
        $bytes = (int) ($statement->bytesScanned * exp(0.1 * $this->normal()));
        $examined = (int) ($statement->rowsExamined * (0.9 + 0.2 * $this->uniform()));
        $time = $statement->baseUs * $factor;
        if ($statement->trouble === Repertoire::PICK_SUMMARY && $day >= self::PLAN_CHANGE_DAY) {
            // The nested loop reads the inner side again for every outer row.
            $time *= 6.0;
            $examined *= 64;
        }
        if ($statement->team === 'forecast_lab' && $day > 21 && $statement->trouble === '') {
            // Since week four the lab reads whole tables where it used to read a part.
            $bytes *= 2;
            $time *= 1.35;
        }
        if (! $this->rehearsal && $second >= DemoNodes::slowSince($this->now) && $statement->everyMinutes === 0) {
            // A statement waits for the slowest of its nodes, whose disk takes twice as long for its part; what dashboards ask again and
            // again is in the memory of the nodes.
            $time += $bytes / self::NODES / self::DISK_BYTES_PER_SECOND * 1e6;
        }
        if ($this->rehearsal) {
            $time *= 1.8;
            $bytes = intdiv($bytes, 10);
            $examined = intdiv($examined, 10);
        }
        $queued = 0;
        if (! $this->rehearsal && self::isMondayMorning($second) && $statement->team === 'boards') {
            $queued = (int) (14_000_000 * exp(0.6 * $this->normal()));
        }
        $working = max(300, (int) $time);
        $spilled = 0;
        if ($statement->trouble === Repertoire::CROSS_JOIN) {
            $spilled = 61 * 1_073_741_824;
        } elseif (str_contains($statement->template, 'OVER (') && $this->uniform() < 0.4) {
            $spilled = (int) ($bytes * 0.3);
        }
        $record = [
            'at' => $at,
            'duration_us' => $working + $queued,
            'sql' => $statement->fill($second, $this->random),
            'database' => $statement->database,
            'user' => $statement->team,
            'application' => $statement->application,
            'client_host' => self::HOSTS[$statement->team][$this->random->getInt(0, count(self::HOSTS[$statement->team]) - 1)],
            'queue' => match ($statement->team) {
                'loaders' => 'night',
                'packhouse' => 'dock',
                default => 'shared',
            },
            'rows_returned' => $statement->rowsReturned === 0
                ? 0 : max(1, (int) ($statement->rowsReturned * (0.8 + 0.4 * $this->uniform()))),
            'rows_examined' => $examined,
            'rows_affected' => $statement->rowsAffected,
            'bytes_scanned' => $bytes,
            'bytes_spilled' => $spilled,
            'queued_us' => $queued,
            'lock_us' => str_starts_with($statement->template, 'UPDATE') ? (int) ($working * 0.4 * $this->uniform()) : 0,
            'cpu_us' => (int) ($working * (0.45 + 0.3 * $this->uniform())),
            'full_scan' => $statement->fullScan,
        ];

        return $this->unavailable($second) + $this->ending($statement, $day) + $record;
    }

    /**
     * What a statement gets while the storage does not answer.
     *
     * @return array<string, mixed>
     */
    private function unavailable(int $second): array
    {
        [$from, $to] = self::outage($this->now);

        return $this->rehearsal || $second < $from || $second >= $to ? [] : [
            'status' => 'error', 'error' => 'the storage does not answer', 'rows_returned' => 0, 'bytes_scanned' => 0, 'bytes_spilled' => 0,
            'duration_us' => 2_000_000 + $second % 997 * 1_000,
        ];
    }

    /**
     * When the storage of Fernhill did not answer.
     *
     * @return array{int, int} Unix seconds
     */
    public static function outage(int $now): array
    {
        $from = $now - $now % 86_400 - (self::DAYS - self::OUTAGE_DAY) * 86_400 + self::OUTAGE_AT;

        return [$from, $from + self::OUTAGE_SECONDS];
    }

    /**
     * How a run ended, where it did not just end well.
     *
     * @return array<string, mixed>
     */
    private function ending(DemoStatement $statement, int $day): array
    {
        if ($statement->trouble === Repertoire::CROSS_JOIN && $day === 19) {
            return ['status' => 'cancelled', 'error' => 'cancelled by the person who ran it'];
        }
        if ($statement->everyMinutes !== 0 || $statement->nightlyAt >= 0) {
            return [];
        }
        $chance = $this->uniform();

        return match (true) {
            $chance < 0.004 => [
                'status' => 'error',
                'error' => self::ERRORS[$this->random->getInt(0, count(self::ERRORS) - 1)],
                'rows_returned' => 0,
            ],
            $chance < 0.005 => ['status' => 'timed_out', 'error' => 'statement ran longer than its limit'],
            $chance < 0.012 && str_contains($statement->template, 'cast(') => ['warnings' => [self::WARNINGS[0]]],
            $chance < 0.009 => ['warnings' => [self::WARNINGS[$this->random->getInt(1, 2)]]],
            default => [],
        };
    }

    /**
     * Trouble 18: on the Thursday of week 4 the energy desk asks for all years where it used to ask for two weeks, and says that the
     * system is slow. It draws nothing, so that all else is as it was.
     *
     * @return list<array<string, mixed>&array{at: int}>
     */
    private function complaint(int $slot): array
    {
        $offset = array_search(intdiv($slot % 86_400, self::SLOT) * self::SLOT, self::COMPLAINTS, true);
        if ($this->day($slot) <= 21 || gmdate('N', $slot) !== '4' || $offset === false) {
            return [];
        }
        foreach ($this->statements as $statement) {
            if ($statement->team === 'energy_desk' && str_starts_with($statement->template, self::COMPLAINED)) {
                $us = (int) ($statement->baseUs * self::MORE_READ * 0.95);

                return [[
                    'at' => ($slot + 40) * 1_000_000, 'duration_us' => $us,
                    'sql' => str_replace('{from}', '2024-01-01', $statement->template),
                    'database' => $statement->database, 'user' => $statement->team, 'application' => $statement->application,
                    'client_host' => self::HOSTS['energy_desk'][0], 'queue' => 'shared', 'rows_returned' => $statement->rowsReturned,
                    'rows_examined' => $statement->rowsExamined * self::MORE_READ, 'rows_affected' => 0,
                    'bytes_scanned' => $statement->bytesScanned * self::MORE_READ, 'bytes_spilled' => 0, 'queued_us' => 0, 'lock_us' => 0,
                    'cpu_us' => (int) ($us * 0.5), 'full_scan' => true,
                ]];
            }
        }

        return [];
    }

    /** Whether the collector of the rehearsal cluster was not there. */
    private function isSilent(int $second): bool
    {
        $from = DemoNodes::silentFrom($this->now);

        return $second >= $from && $second < $from + DemoNodes::SILENT_SECONDS;
    }

    /** Day of the history, 1 to 28. */
    private function day(int $second): int
    {
        return intdiv($second - $this->start, 86_400) + 1;
    }

    /** How busy a team is, 0 to 1. */
    private function busyness(string $team, int $second): float
    {
        $hour = ($second % 86_400) / 3600;
        $weekday = (int) gmdate('N', $second);
        if ($this->rehearsal) {
            return $weekday <= 5 && $hour >= 8 && $hour < 17 ? 0.55 : 0.0;
        }
        if ($team === 'forecast_lab') {
            // Odd hours: evenings and deep nights as much as noon.
            return ($weekday === 7 ? 0.3 : 1.0) * (0.35 + 0.65 * (0.5 + 0.5 * sin($hour * 1.7 + $weekday)) ** 2);
        }
        $morning = exp(-((($hour - 7.6) / 1.1) ** 2));
        $afternoon = exp(-((($hour - 15.2) / 1.3) ** 2));
        $office = $hour >= 6 && $hour < 18.5 ? 0.22 : 0.02;
        $week = [1 => 1.0, 0.95, 0.95, 0.95, 0.9, 0.4, 0.12][$weekday];

        return $week * min(1.0, $office + 0.78 * $morning + ($team === 'packhouse' ? 0.6 : 0.35) * $afternoon);
    }

    private static function isMondayMorning(int $second): bool
    {
        $minute = intdiv($second % 86_400, 60);

        return (int) gmdate('N', $second) === 1 && $minute >= 390 && $minute < 540;
    }

    private function uniform(): float
    {
        return $this->random->getInt(0, 2_147_483_646) / 2_147_483_647;
    }

    private function normal(): float
    {
        return NormalDraw::of(1 - $this->uniform(), $this->uniform());
    }

    /** Knuth's method; expectations stay small. */
    private function poisson(float $expected): int
    {
        $limit = exp(-$expected);
        $n = 0;
        for ($product = $this->uniform(); $product > $limit; $n++) {
            $product *= $this->uniform();
        }

        return $n;
    }
}
