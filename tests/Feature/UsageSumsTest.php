<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Telemetry\Usage\UsageAxis;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use App\Telemetry\Usage\UsageSums;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\TestWith;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\TestCase;

/**
 * What is added up ahead says the same as the facts, whatever is asked for.
 */
final class UsageSumsTest extends TestCase
{
    private const DAY = 86_400;

    /** @var list<array<string, int>> */
    private array $facts = [];

    /** @var array<string, array<int, string>> names by number, by field */
    private array $names = [];

    private int $now;

    protected function setUp(): void
    {
        parent::setUp();
        $this->now = (int) strtotime('2026-11-20 07:00 UTC');
        $random = new Randomizer(new Mt19937(7));
        $clusters = [$this->cluster('fernhill'), $this->cluster('wren')];
        foreach (range(1, 4) as $i) {
            DB::table('usage_teams')->insert(['id' => $i, 'name' => "team {$i}"]);
            DB::table('origins')->insert([
                'id' => $i, 'digest' => str_pad((string) $i, 16, '0'), 'database_name' => 'd'.($i % 2), 'user_name' => "u{$i}",
                'application' => 'a'.($i % 3), 'client_host' => 'h', 'queue_name' => $i < 3 ? 'night' : '',
            ]);
            DB::table('statements')->insert(['id' => $i, 'fingerprint' => md5((string) $i), 'kind' => 'read', 'text' => "SELECT {$i}"]);
            $this->names['team'][$i] = "team {$i}";
            $this->names['person'][$i] = "u{$i}";
            $this->names['application'][$i] = 'a'.($i % 3);
            $this->names['database'][$i] = 'd'.($i % 2);
            $this->names['queue'][$i] = $i < 3 ? 'night' : '';
            $this->names['statement'][$i] = md5((string) $i);
        }
        foreach ($clusters as $cluster) {
            $this->names['on'][$cluster->id] = $cluster->slug;
        }
        for ($day = (int) strtotime('2026-08-28 UTC'); $day <= $this->now; $day += self::DAY) {
            foreach ($clusters as $cluster) {
                $facts = [];
                for ($n = $random->getInt(0, 5); $n > 0; $n--) {
                    $fact = [
                        'day_at' => $day, 'cluster_id' => $cluster->id, 'team_id' => $random->getInt(1, 4),
                        'origin_id' => $random->getInt(1, 4), 'statement_id' => $random->getInt(1, 4), 'corrected_at' => $n % 2 * $day,
                    ];
                    foreach (UsageMeasure::cases() as $measure) {
                        $fact[$measure->value] = $random->getInt(-5, 1_000_000);
                    }
                    $facts[implode(' ', array_slice($fact, 0, 6))] = $fact;
                }
                DB::table('usage_facts')->insert(array_values($facts));
                DB::table('usage_days')->insert(['cluster_id' => $cluster->id, 'day_at' => $day]);
                array_push($this->facts, ...array_values($facts));
                UsageSums::day($cluster->id, $day);
            }
        }
        foreach ($clusters as $cluster) {
            UsageSums::spans($cluster, $this->now);
        }
    }

    /**
     * @return array<string, int> amount by row and column, from the facts one by one
     */
    private function counted(UsageAxis $rows, UsageAxis $columns, UsageScope $scope): array
    {
        $cells = [];
        foreach ($this->facts as $fact) {
            if (
                $fact['day_at'] < $scope->days->from || $fact['day_at'] >= $scope->days->to
                || $scope->cluster !== null && $fact['cluster_id'] !== $scope->cluster->id
                || $scope->teams !== null && ! in_array($this->names['team'][$fact['team_id']], $scope->teams, true)
            ) {
                continue;
            }
            foreach ($scope->only as $field => $value) {
                if ($this->value($fact, $field) !== $value) {
                    continue 2;
                }
            }
            $cell = $this->value($fact, $rows->key).'|'.$this->value($fact, $columns->key);
            $cells[$cell] = ($cells[$cell] ?? 0) + $fact[$scope->measure->value];
        }
        ksort($cells);

        return $cells;
    }

    /**
     * @param  array<string, int>  $fact
     */
    private function value(array $fact, string $key): string
    {
        return match ($key) {
            'day' => (string) $fact['day_at'],
            'week' => (string) strtotime('monday this week', $fact['day_at'] + 43_200),
            'month' => gmdate('Y-m', $fact['day_at']),
            'team' => $this->names['team'][$fact['team_id']],
            'on' => $this->names['on'][$fact['cluster_id']],
            'statement' => $this->names['statement'][$fact['statement_id']],
            default => $this->names[$key][$fact['origin_id']],
        };
    }

    /**
     * @param  array{int, int}  $most
     */
    private function compare(UsageAxis $rows, UsageAxis $columns, UsageScope $scope, string $what, array $most = [4, 4]): void
    {
        [$grid, $others] = (new UsageReader())->grid($rows, $columns, $scope, $most, 'other');
        $counted = $this->counted($rows, $columns, $scope);
        $sums = [[], []];
        foreach ($counted as $cell => $amount) {
            foreach (explode('|', $cell) as $i => $value) {
                $sums[$i][$value] = ($sums[$i][$value] ?? 0) + $amount;
            }
        }
        $cells = $shown = [];
        foreach ($grid as [$row, $column, $amount]) {
            $cells["{$row}|{$column}"] = ($cells["{$row}|{$column}"] ?? 0) + $amount;
        }
        // Those with most are shown by themselves, all others together.
        foreach ([$rows, $columns] as $i => $axis) {
            arsort($sums[$i]);
            $isCut = $rows->key !== $columns->key && in_array($axis->key, ['person', 'statement'], true) && count($sums[$i]) > $most[$i];
            $shown[$i] = array_fill_keys(array_keys($isCut ? array_slice($sums[$i], 0, $most[$i], true) : $sums[$i]), true);
            if ($i === 0) {
                self::assertSame($isCut ? count($sums[0]) - $most[0] : 0, $others, $what);
            }
        }
        $expected = [];
        foreach ($counted as $cell => $amount) {
            [$row, $column] = explode('|', $cell);
            $at = (isset($shown[0][$row]) ? $row : 'other').'|'.(isset($shown[1][$column]) ? $column : 'other');
            $expected[$at] = ($expected[$at] ?? 0) + $amount;
        }
        // What is nothing may be said or left out.
        $some = static fn (int $amount): bool => $amount !== 0;
        self::assertEquals(array_filter($expected, $some), array_filter($cells, $some), $what);
    }

    #[TestWith(['2026-09'])]
    #[TestWith(['2026-09-01 to 2026-11-19'])]
    #[TestWith(['2026-08-30 to 2026-10-02'])]
    #[TestWith(['2026-11-03'])]
    #[TestWith(['2026-10-01 to 2026-10-31'])]
    public function test_any_two_axes_say_what_the_facts_say(string $text): void
    {
        $days = Days::parse($text, $this->now);
        $wren = Cluster::query()->where('slug', 'wren')->firstOrFail();
        $i = 0;
        // Hours are not of the facts but of the load.
        $axes = array_filter(UsageAxis::all(), static fn (UsageAxis $axis): bool => ! $axis->isOfHours());
        foreach ($axes as $rows) {
            foreach ($axes as $columns) {
                // Each measure and each filter has its turn.
                $measure = UsageMeasure::cases()[$i % 8];
                [$cluster, $only, $teams] = [
                    [null, [], null], [$wren, [], null], [null, ['person' => 'u2'], null], [null, ['statement' => md5('3')], null],
                    [null, ['team' => 'team 1', 'queue' => 'night'], null], [null, [], ['team 2', 'team 4']], [null, [], []],
                ][$i % 7];
                $this->compare($rows, $columns, UsageScope::within($days, $measure, $cluster, $only, $teams), "{$rows->key} by "
                    ."{$columns->key}, case {$i}", [[4, 4], [1, 2], [3, 1]][$i % 3]);
                $i++;
            }
        }
        self::assertGreaterThan(90, $i);
    }

    /**
     * @param  list<UsageField>  $fields
     * @param  list<string>  $grains
     * @return list<string>
     */
    private static function tables(array $fields, Days $days, array $grains): array
    {
        return array_column(UsageSums::parts($fields, $days, $grains), 0);
    }

    public function test_what_is_enough_is_read_and_no_more(): void
    {
        $days = fn (string $text): Days => Days::parse($text, $this->now);
        $both = ['months', 'weeks'];
        $two = $days('2026-09-01 to 2026-10-31');
        $tables = self::tables(...);
        self::assertSame(['usage_origin_days'], $tables([UsageField::Team, UsageField::Person], $two, []));
        self::assertSame(['usage_statement_days'], $tables([UsageField::Statement, UsageField::Cluster], $two, []));
        self::assertSame(['usage_facts'], $tables([UsageField::Statement, UsageField::Queue], $two, $both));
        // Six days, and a week that is not over.
        self::assertSame(['usage_origin_days'], $tables([], $days('2026-11-03 to 2026-11-08'), $both));
        self::assertSame(['usage_origin_days'], $tables([], $days('2026-11-16 to 2026-11-20'), $both));
        $parts = static fn (array $tables): array => array_map(
            static fn (string $grain): int => count(array_keys($tables, "usage_statement_{$grain}", true)),
            ['days', 'weeks', 'months'],
        );
        $of = static fn (Days $days, string ...$grains): array => $tables([UsageField::Statement], $days, array_values($grains));
        self::assertSame([0, 0, 2], $parts($of($two, ...$both)));
        self::assertSame([0, 0, 2], $parts($of($two, 'months')));
        // From Tuesday, 1 September to Saturday, 31 October: seven weeks, and days before and behind.
        self::assertSame([2, 7, 0], $parts($of($two, 'weeks')));
        // Two months, two weeks of the one that goes on, and a day before, between and behind them.
        self::assertSame([3, 2, 2], $parts($of($days('2026-08-31 to 2026-11-16'), ...$both)));
        self::assertSame([1, 4, 0], $parts($of($days('2026-10-19 to 2026-11-16'), 'weeks')));
    }

    public function test_a_month_that_was_corrected_is_read_by_day_until_it_is_added_up_again(): void
    {
        $wren = Cluster::query()->where('slug', 'wren')->firstOrFail();
        $day = (int) strtotime('2026-09-17 UTC');
        $fact = [
            'day_at' => $day, 'cluster_id' => $wren->id, 'team_id' => 1, 'origin_id' => 1, 'statement_id' => 1,
            'corrected_at' => $this->now, 'executions' => 5, 'in_flight_us' => 5, 'cpu_us' => 5, 'queued_us' => 5, 'bytes_scanned' => 5,
            'bytes_spilled' => 5, 'rows_returned' => 5, 'errors' => 5,
        ];
        $this->facts[] = $fact;
        DB::table('usage_facts')->insert($fact);
        UsageSums::day($wren->id, $day);
        $days = Days::parse('2026-09', $this->now);
        self::assertSame('usage_origin_days', UsageSums::parts([], $days, ['months'])[0][0]);
        $team = UsageAxis::of('team');
        $month = UsageAxis::of('month');
        self::assertNotNull($team);
        self::assertNotNull($month);
        $this->compare($team, $month, UsageScope::within($days, UsageMeasure::Executions), 'by day');
        UsageSums::spans($wren, $this->now);
        self::assertSame('usage_origin_months', UsageSums::parts([], $days, ['months'])[0][0]);
        $this->compare($team, $month, UsageScope::within($days, UsageMeasure::Executions), 'added up again');
        // A month that is not over is never added up.
        self::assertSame(['2026-08', '2026-09', '2026-10'], array_map(
            static fn (int|string $from): string => gmdate('Y-m', (int) $from),
            DB::table('usage_spans')->where('grain', 'months')->distinct()->orderBy('from_at')->pluck('from_at')->all(),
        ));
    }
}
