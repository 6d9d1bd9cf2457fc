<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use App\Estate\Models\Cluster;
use App\Telemetry\Usage\UsageAxis;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use App\Telemetry\Usage\UsageSums;
use App\Usage\Application\ExplorePage;
use Closure;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Facades\DB;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Two years of facts of 200 teams, 5,000 people and 50,000 statements, and fifty questions about them, drawn at random: how long each
 * takes beside a bare sum of the same facts.
 */
final class UsageExploreBench implements Measurement
{
    private const DAYS = 731;

    private const TEAMS = 200;

    private const PEOPLE = 5_000;

    private const STATEMENTS = 50_000;

    /** Drawn; a fact that comes twice is one. */
    private const A_DAY = 30_000;

    private const REQUESTS = 50;

    private const DAY = 86_400;

    /** How often people look at which span: most look at the last four weeks. */
    private const SPANS = [
        'last 28 days' => 22, 'last 7 days' => 12, 'last month' => 8, 'last 91 days' => 5, '2024-12-01 to 2026-11-30' => 3,
    ];

    public function __construct(private readonly UsageReader $reader)
    {
    }

    public function name(): string
    {
        return 'usage-explore';
    }

    public function run(Closure $say): iterable
    {
        Scratch::fresh();
        $first = (int) strtotime('2024-12-01 UTC');
        $cluster = $this->people($say);
        // Two years at once fill an index best when they are all there.
        DB::statement('ALTER TABLE usage_facts DROP KEY by_origin, DROP KEY by_statement');
        DB::statement('ALTER TABLE usage_statement_days DROP KEY by_statement');
        $began = hrtime(true);
        $summing = 0;
        for ($day = 0; $day < self::DAYS; $day++) {
            if ($day % 50 === 0) {
                $say("making facts of day {$day} of ".self::DAYS);
            }
            $this->facts($cluster, $first + $day * self::DAY);
            DB::table('usage_days')->insert(['cluster_id' => $cluster->id, 'day_at' => $first + $day * self::DAY]);
            $at = hrtime(true);
            UsageSums::day($cluster->id, $first + $day * self::DAY);
            $summing += hrtime(true) - $at;
        }
        $say('indexes');
        DB::statement('ALTER TABLE usage_facts ADD KEY by_origin (origin_id, day_at), ADD KEY by_statement (statement_id, day_at)');
        DB::statement('ALTER TABLE usage_statement_days ADD KEY by_statement (statement_id, day_at)');
        $at = hrtime(true);
        $now = $first + self::DAYS * self::DAY;
        UsageSums::spans($cluster, $now);
        DB::statement('ANALYZE TABLE usage_facts, usage_origin_days, usage_statement_days, usage_origin_weeks, usage_statement_weeks, '
            .'usage_origin_months, usage_statement_months');
        yield BenchFigure::of('facts', (float) DB::table('usage_facts')->count(), 'rows');
        yield BenchFigure::of('making them', (hrtime(true) - $began) / 1e9, 's');
        yield BenchFigure::of('adding up a day', $summing / self::DAYS / 1e6, 'ms');
        yield BenchFigure::of('adding up all weeks and months', (hrtime(true) - $at) / 1e9, 's');
        foreach ($this->sizes() as $table => $mib) {
            yield BenchFigure::of("size of {$table}", $mib, 'MiB');
        }
        yield from $this->ask($now, $say);
    }

    /**
     * @return iterable<BenchFigure>
     */
    private function ask(int $now, Closure $say): iterable
    {
        $random = new Randomizer(new Mt19937(50));
        $times = $ratios = [];
        $bare = [];
        foreach ($this->requests($random) as $i => [$text, $rows, $columns, $measure, $only]) {
            $say('question '.($i + 1).' of '.self::REQUESTS.": {$rows->key} by {$columns->key}, {$text}");
            $days = Days::parse($text, $now);
            $bare["{$text}|{$measure->value}"] ??= self::timed(static fn () => DB::scalar(
                "SELECT SUM({$measure->value}) FROM usage_facts WHERE day_at >= ? AND day_at < ?",
                [$days->from, $days->to],
            ));
            $scope = UsageScope::within($days, $measure, null, $only);
            $ms = self::timed(fn () => ExplorePage::of($scope, $rows, $columns, $this->reader));
            $times[] = $ms;
            $ratios[] = $ms / $bare["{$text}|{$measure->value}"];
        }
        $say('');
        yield BenchFigure::of('median of a question', Spread::median($times), 'ms');
        yield BenchFigure::atMost('95th percentile of a question', Spread::quantile($times, 0.95), 300, 'ms');
        yield BenchFigure::of('longest', $times === [] ? 0.0 : max($times), 'ms');
        yield BenchFigure::of('median against a bare sum of the same facts', Spread::median($ratios), 'times');
        yield BenchFigure::atMost('95th percentile against a bare sum of the same facts', Spread::quantile($ratios, 0.95), 1.5, 'times');
    }

    /**
     * @return list<array{string, UsageAxis, UsageAxis, UsageMeasure, array<string, string>}>
     */
    private function requests(Randomizer $random): array
    {
        $spans = [];
        foreach (self::SPANS as $text => $count) {
            array_push($spans, ...array_fill(0, $count, $text));
        }
        // Hours are read from the load itself, which is kept for weeks and not for years.
        $axes = array_values(array_filter(UsageAxis::all(), static fn (UsageAxis $axis): bool => ! $axis->isOfHours()));
        $fields = array_values(array_filter($axes, static fn (UsageAxis $axis): bool => ! $axis->isTime()));
        $requests = [];
        foreach ($spans as $text) {
            $rows = $fields[$random->getInt(0, count($fields) - 1)];
            do {
                $columns = $axes[$random->getInt(0, count($axes) - 1)];
            } while ($columns->key === $rows->key);
            $only = match ($random->getInt(1, 4)) {
                1 => ['team' => 'team '.$random->getInt(1, self::TEAMS)],
                2 => ['person' => 'person '.$random->getInt(1, self::PEOPLE)],
                default => [],
            };
            $measures = UsageMeasure::cases();
            $requests[] = [$text, $rows, $columns, $measures[$random->getInt(0, count($measures) - 1)], $only];
        }

        return $requests;
    }

    /** @return float milliseconds, of the second time: what is asked for is mostly asked for again */
    private static function timed(Closure $ask): float
    {
        $ask();
        $began = hrtime(true);
        $ask();

        return (hrtime(true) - $began) / 1e6;
    }

    private function people(Closure $say): Cluster
    {
        $say('making people and statements');
        $cluster = Cluster::query()->create([
            'slug' => 'fernhill', 'name' => 'Fernhill', 'role' => 'production', 'connector' => 'files', 'dialect' => Dialect::Ansi,
        ]);
        [$teams, $people, $statements] = [self::TEAMS, self::PEOPLE, self::STATEMENTS];
        DB::insert("INSERT INTO usage_teams (id, name) SELECT seq, CONCAT('team ', seq) FROM seq_1_to_{$teams}");
        // Everybody works with one program in one database; who belongs to team t is t, t + 200, t + 400 and so on.
        DB::insert('INSERT INTO origins (id, digest, database_name, user_name, application, client_host, queue_name) SELECT seq, '
            ."LPAD(seq, 16, '0'), CONCAT('db', seq % 7), CONCAT('person ', seq), CONCAT('app ', seq % 60), '', CONCAT('q', seq % 4) FROM "
            ."seq_1_to_{$people}");
        DB::insert("INSERT INTO statements (id, fingerprint, kind, text) SELECT seq, MD5(seq), 'read', CONCAT('SELECT ', seq, ' FROM t') "
            ."FROM seq_1_to_{$statements}");

        return $cluster;
    }

    private function facts(Cluster $cluster, int $day): void
    {
        [$people, $teams, $statements, $count] = [intdiv(self::PEOPLE, self::TEAMS), self::TEAMS, self::STATEMENTS, self::A_DAY];
        // A few statements run all the time, most of them seldom; each belongs to one team, any of whose people runs it.
        DB::statement('INSERT INTO usage_facts (day_at, cluster_id, team_id, origin_id, statement_id, executions, in_flight_us, cpu_us, '
            ."queued_us, bytes_scanned, bytes_spilled, rows_returned, errors) SELECT {$day}, {$cluster->id}, s % {$teams} + 1, "
            ."s % {$teams} + 1 + {$teams} * FLOOR(r3 * {$people}), s + 1, 1 + FLOOR(r2 * 50), FLOOR(r2 * 9000000), FLOOR(r2 * 5000000), "
            .'FLOOR(r1 * 1000), FLOOR(r3 * 900000000), FLOOR(r1 * 100), FLOOR(r2 * 4000), FLOOR(r1 * 1.01) FROM (SELECT '
            ."FLOOR({$statements} * POW(RAND(".($day % 1_000_003).'), 2)) AS s, RAND('.($day % 1_000_033).') AS r1, RAND('
            .($day % 999_983).') AS r2, RAND('.($day % 999_979).") AS r3 FROM seq_1_to_{$count}) x ON DUPLICATE KEY UPDATE "
            .'executions = executions + 1');
    }

    /**
     * @return array<string, float> MiB by table
     */
    private function sizes(): array
    {
        $sizes = [];
        foreach (
            DB::select('SELECT table_name AS name, (data_length + index_length) / 1048576 AS mib FROM information_schema.tables WHERE '
                ."table_schema = DATABASE() AND table_name LIKE 'usage\\_%' AND data_length > 1048576 ORDER BY mib DESC") as $row
        ) {
            $sizes[(string) $row->name] = (float) $row->mib;
        }

        return $sizes;
    }
}
