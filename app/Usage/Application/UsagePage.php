<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Platform\Figures\Figure;
use App\Platform\Support\MomentStyle;
use App\Telemetry\Usage\Amount;
use App\Telemetry\Usage\TableUsage;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use App\Usage\Charts\RiverFigure;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageBridge;
use Fulcrion\Core\Usage\UsageChange;
use stdClass;

/**
 * Who used how much, and what changed.
 */
final readonly class UsagePage
{
    /** Ribbons of a figure; the others are one. */
    private const TEAMS = 5;

    private const WEEKS = 8;

    private const MONTHS = 12;

    private const LEAST_MONTHS = 3;

    /** Subjects of each list. */
    private const LISTED = 8;

    /**
     * @param  array<string, list<UsageChange>>  $most by field: those that used most
     * @param  array<string, string>  $texts of the statements among them
     * @param  list<stdClass>  $corrections day_at, name of the cluster, corrected_at
     */
    private function __construct(
        public UsageScope $scope,
        public UsageBridge $teams,
        public ?Figure $river,
        public array $most,
        public array $texts,
        public array $corrections,
        /** @var list<UsageChange> the tables that were used most */
        public array $tables,
    ) {
    }

    public static function of(UsageScope $scope, UsageReader $reader, TableUsage $tables, int $now): self
    {
        $most = [];
        $bridges = [];
        foreach (UsageField::steps() as $field) {
            $bridge = UsageBridge::of($reader->by($field, $scope, $scope->against), $reader->by($field, $scope, $scope->days));
            $bridges[$field->value] = $bridge;
            $most[$field->value] = self::most($bridge);
        }
        $fingerprints = array_map(static fn (UsageChange $one): string => $one->key, $most[UsageField::Statement->value] ?? []);

        return new self(
            $scope,
            $bridges[UsageField::Team->value] ?? UsageBridge::of([], []),
            self::river($scope, $reader, app(Calendar::class)->shown($now)),
            $most,
            $reader->texts($fingerprints),
            $reader->corrections($scope->days),
            self::most(UsageBridge::of($tables->of($scope, $scope->against), $tables->of($scope, $scope->days))),
        );
    }

    /**
     * @return list<UsageChange> those that used most
     */
    private static function most(UsageBridge $bridge): array
    {
        $list = $bridge->changes;
        usort($list, static fn (UsageChange $a, UsageChange $b): int => [$b->after->amount, $a->key] <=> [$a->after->amount, $b->key]);

        return array_slice(
            array_values(array_filter($list, static fn (UsageChange $one): bool => ! $one->after->isNothing())),
            0,
            self::LISTED,
        );
    }

    public function hasFacts(): bool
    {
        return ! $this->teams->after->isNothing() || ! $this->teams->before->isNothing();
    }

    /**
     * @return list<UsageChange> the team that used most first
     */
    public function byUse(): array
    {
        $teams = $this->teams->changes;
        usort($teams, static fn (UsageChange $a, UsageChange $b): int => [$b->after->amount, $a->key] <=> [$a->after->amount, $b->key]);

        return $teams;
    }

    public function sentence(): string
    {
        $measure = $this->scope->measure;
        $days = $this->scope->days->describe();
        if (! $this->hasFacts()) {
            return "Nothing is known of {$measure->label()} from {$days}";
        }
        [$before, $after] = [$this->teams->before->amount, $this->teams->after->amount];
        $all = ucfirst($measure->label()).", {$days}: ".Amount::against($before, $after, $this->scope->againstText);
        $first = $this->teams->changes[0] ?? null;
        // One team that did as much as the whole change is named.
        if ($first === null || $before === 0 || abs($first->change()) * 2 < abs($after - $before)) {
            return $all;
        }

        return "{$all}; {$first->key} ".Amount::against($first->before->amount, $first->after->amount);
    }

    private static function river(UsageScope $scope, UsageReader $reader, int $now): ?Figure
    {
        $first = $reader->first();
        if ($first === null) {
            return null;
        }
        [$names, $borders, $byMonth] = self::periods($first, $now);
        $count = count($names);
        if ($count < 2) {
            return null;
        }
        $sums = [];
        foreach ($reader->daily($scope, new Days($borders[0], $borders[$count])) as $day => $teams) {
            $period = count(array_filter($borders, static fn (int $border): bool => $border <= $day)) - 1;
            foreach ($teams as $team => $amount) {
                $sums[$team] ??= array_fill(0, $count, 0);
                $sums[$team][$period] += $amount;
            }
        }
        if ($sums === []) {
            return null;
        }
        $measure = $scope->measure;

        return RiverFigure::draw(
            ucfirst($measure->label()).' by team, '.($byMonth ? 'month by month' : 'week by week'),
            ucfirst($measure->label())." of {$count} ".($byMonth ? 'months' : 'weeks').', each team a ribbon as wide as its use.',
            'Sums of usage facts of '.($byMonth ? 'whole months' : 'seven days each').
                ', up to the last day that is over; teams as they were on each day.',
            $names,
            self::drawn(array_map(array_values(...), $sums)),
            $count,
            $measure,
            static fn (string $team): ?string => $team === 'other' ? null
                : address('usage.why').'?'.http_build_query($scope->query(['team' => $team])),
        );
    }

    /**
     * Whole months where three of them are known, else weeks of seven days that end with the last day that is over, so that all are
     * alike.
     *
     * @return array{list<string>, list<int>, bool} names, one border more than names, and whether they are months
     */
    private static function periods(int $first, int $now): array
    {
        $names = [];
        $borders = [Days::monthTo($now)->from];
        while (count($names) < self::MONTHS) {
            $month = Days::month(gmdate('Y-m', $borders[0] - 1));
            if ($month->from < $first) {
                break;
            }
            array_unshift($names, onUtc($month->from, MomentStyle::Month));
            array_unshift($borders, $month->from);
        }
        if (count($names) >= self::LEAST_MONTHS) {
            return [$names, $borders, true];
        }
        $today = $now - $now % Days::DAY;
        $weeks = min(self::WEEKS, intdiv($today - $first, 7 * Days::DAY));
        [$names, $borders] = [[], [$today]];
        for ($i = 1; $i <= $weeks; $i++) {
            array_unshift($borders, $today - $i * 7 * Days::DAY);
            array_unshift($names, self::day($borders[0]).' to '.self::day($borders[1] - 1));
        }

        return [$names, $borders, false];
    }

    private static function day(int $at): string
    {
        return onUtc($at, MomentStyle::ShortDay);
    }

    /**
     * The largest by name, so that a team has the same place on every page, and the others as one.
     *
     * @param  array<string, list<int>>  $sums
     * @return array<string, list<int>>
     */
    private static function drawn(array $sums): array
    {
        uasort($sums, static fn (array $a, array $b): int => array_sum($b) <=> array_sum($a));
        $shown = array_slice($sums, 0, self::TEAMS, true);
        ksort($shown);
        $rest = array_slice($sums, self::TEAMS, null, true);
        if ($rest !== []) {
            $shown['other'] = array_map(static fn (int ...$of): int => array_sum($of), ...array_values($rest));
        }

        return $shown;
    }
}
