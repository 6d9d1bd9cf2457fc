<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Estate\Pricing\DailyMoney;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Scale;
use App\Platform\Support\Money;
use App\Telemetry\Usage\Amount;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageScope;
use App\Telemetry\Usage\UsageSeries;
use App\Usage\Charts\ForecastFigure;
use Fulcrion\Core\Forecast\DailySeries;
use Fulcrion\Core\Forecast\ForecastModel;
use Fulcrion\Core\Forecast\PeriodForecast;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;

/**
 * Where the month will end, of all that is looked at and of each team.
 */
final readonly class ForecastPage
{
    /** As an address says that it is about cost. */
    public const COST = 'cost';

    /** Teams with a forecast of their own. */
    private const TEAMS = 20;

    /** How often ranges held is said of so many. */
    private const LEAST_HELD = 10;

    /** Days before which earlier forecasts are shown. */
    private const EARLIER = [7, 14, 21];

    /**
     * @param  array<string, PeriodForecast>  $teams that used most this month first
     * @param  list<PeriodForecast>  $earlier what was to be said on days before
     * @param  string|null  $currency where it is about cost
     */
    private function __construct(
        public UsageScope $scope,
        public Days $month,
        public ?PeriodForecast $all,
        public array $teams,
        public array $earlier,
        public ?string $currency = null,
    ) {
    }

    public static function of(UsageScope $scope, UsageSeries $series, Calendar $calendar, int $now): self
    {
        $byTeam = $series->byTeam($scope, $now);

        return self::from($scope, $byTeam, UsageSeries::sum($byTeam), $calendar, $now, null);
    }

    /** Of cost, which is known by team and cluster: idle time is part of all of it, as far as it is nobody's. */
    public static function ofCost(UsageScope $scope, DailyMoney $money, Calendar $calendar, int $now): self
    {
        [$all, $byTeam] = $money->series($scope->cluster, $now);
        $team = $scope->only[UsageField::Team->value] ?? null;
        $isPart = $team !== null || $scope->teams !== null;
        $byTeam = array_filter($byTeam, static fn (string $one): bool => ($team === null || $one === $team)
            && ($scope->teams === null || in_array($one, $scope->teams, true)), ARRAY_FILTER_USE_KEY);

        return self::from(
            $scope,
            $byTeam,
            $isPart ? UsageSeries::sum($byTeam) : $all,
            $calendar,
            $now,
            $money->currency($scope->cluster),
        );
    }

    /**
     * @param  array<string, DailySeries>  $byTeam
     */
    private static function from(
        UsageScope $scope,
        array $byTeam,
        ?DailySeries $sum,
        Calendar $calendar,
        int $now,
        ?string $currency,
    ): self {
        $month = Days::month(gmdate('Y-m', $calendar->shown($now)));
        if ($sum === null) {
            return new self($scope, $month, null, [], [], $currency);
        }
        $teams = array_map(
            static fn (DailySeries $one): PeriodForecast => PeriodForecast::of($one, $month),
            self::foremost($byTeam, $month),
        );
        uasort($teams, static fn (PeriodForecast $a, PeriodForecast $b): int => $b->expected() <=> $a->expected());
        $all = PeriodForecast::of($sum, $month);

        return new self($scope, $month, $all, $teams, array_values(array_filter(array_map($all->earlier(...), self::EARLIER))), $currency);
    }

    /**
     * Of the last weeks; where only one team is looked at that is what all of it is.
     *
     * @param  array<string, DailySeries>  $series
     * @return array<string, DailySeries>
     */
    private static function foremost(array $series, Days $month): array
    {
        if (count($series) < 2) {
            return [];
        }
        $use = array_map(static fn (DailySeries $one): float => array_sum(array_slice($one->values, -$month->count())), $series);
        arsort($use);

        return array_intersect_key($series, array_slice($use, 0, self::TEAMS, true));
    }

    public function sentence(): string
    {
        $measure = ucfirst($this->measure());
        $month = $this->month->describe();
        if ($this->all === null) {
            return "Nothing is known of {$this->measure()} before today, so nothing can be said of {$month}";
        }
        $whose = $this->scope->only[UsageField::Team->value] ?? '';
        $range = $this->all->range(0.8);

        return "{$measure}".($whose === '' ? '' : " of {$whose}").' will be about '.$this->amount($this->all->expected()).", {$month}".
            ($range === null ? '; too little of the past is known to say how sure that is'
                : ": four of five such forecasts end between {$this->amount($range[0])} and {$this->amount($range[1])}");
    }

    public function amount(float $amount): string
    {
        return $this->currency === null ? Amount::of($this->scope->measure, $amount) : Money::short($amount, $this->currency);
    }

    /** With its sign. */
    public function change(float $amount): string
    {
        return $this->currency === null ? Amount::change($this->scope->measure, (int) round($amount))
            : ($amount > 0 ? '+' : '').Money::short($amount, $this->currency);
    }

    /** What it is about, as an address says it. */
    public function key(): string
    {
        return $this->currency === null ? $this->scope->measure->value : self::COST;
    }

    /** What it is about, in words. */
    public function measure(): string
    {
        return $this->currency === null ? $this->scope->measure->label() : 'cost';
    }

    /** Whether what a change saves can be told in it. */
    public function knowsTime(): bool
    {
        return $this->currency !== null || $this->scope->measure === UsageMeasure::InFlight;
    }

    /**
     * Round numbers of the unit that is shown.
     *
     * @return list<float>
     */
    public function ticks(float $most): array
    {
        return $this->currency === null ? Amount::ticks($this->scope->measure, $most) : Scale::ticks($most);
    }

    /**
     * @param  array<string, string|null>  $other
     * @return array<string, string> for an address
     */
    public function query(array $other = []): array
    {
        return $this->scope->query($other + ['measure' => $this->key()]);
    }

    /** How the model did before, in words. */
    public function record(PeriodForecast $one): string
    {
        $error = $one->forecast->backtest->error;
        $naive = $one->forecast->model === ForecastModel::SeasonalNaive ? null : $one->forecast->naive->error;
        [$held, $of] = $one->forecast->backtest->held($one->ahead, 0.8);

        return ucfirst($one->forecast->model->label()).': '.($error === null || is_infinite($error) ? 'what it is wrong by is not known'
            : 'a day was wrong by '.Quantity::percent($error).' in the past'.($naive === null || $naive <= 0 ? ''
                : ', by '.Quantity::percent($naive).' if it had been said that all goes on as in the week before')).
            ($of < self::LEAST_HELD ? '' : "; such ranges held {$held} of {$of} times");
    }

    /** Between what nineteen of twenty such forecasts end, as a sentence; empty where that is not known. */
    public function nearlyAll(PeriodForecast $one): string
    {
        $range = $one->range(0.95);

        return $range === null ? ''
            : " Nineteen of twenty such forecasts end between {$this->amount($range[0])} and {$this->amount($range[1])}.";
    }

    public function figure(): ?Figure
    {
        return $this->all === null ? null : ForecastFigure::draw($this, $this->all);
    }
}
