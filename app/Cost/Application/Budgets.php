<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageScope;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\BudgetPeriod;
use Fulcrion\Core\Cost\BudgetUse;
use Fulcrion\Core\Forecast\PeriodForecast;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Budgets, and what was spent of them.
 */
final class Budgets
{
    /** @var array<string, CostPage> cost by team, by days */
    private array $pages = [];

    public function __construct(
        private readonly Prices $prices,
        private readonly Calendar $calendar,
        private readonly DailyCosts $costs,
    ) {
    }

    /**
     * Those that hold on the day a moment lies in.
     *
     * @param  list<string>|null  $teams that whoever looks may see; null for all
     * @param  bool  $ahead whether it is to be said where their periods will end
     * @return list<Budget> teams first, by name
     */
    public function all(int $now, ?array $teams = null, bool $ahead = false): array
    {
        $held = [];
        $rows = DB::table('budgets')->where('from_at', '<=', $this->calendar->day($now))->orderBy('from_at')->orderBy('id')->get();
        foreach ($rows as $row) {
            $held["{$row->of}|{$row->name}|{$row->period}"] = $row;
        }
        $budgets = [];
        foreach ($held as $row) {
            // A budget of nothing ends the one before.
            $isSeen = $teams === null || ($row->of === 'team' && in_array($row->name, $teams, true));
            if ($isSeen && ! BigDecimal::of($row->amount)->isZero()) {
                $budgets[] = $this->read($row, $now, $ahead);
            }
        }
        usort($budgets, static fn (Budget $a, Budget $b): int => [array_search($a->of, Budget::OF, true), $a->name, $a->period->value]
            <=> [array_search($b->of, Budget::OF, true), $b->name, $b->period->value]);

        return $budgets;
    }

    /**
     * Of one team, in the month and quarter some days end in, up to that day.
     *
     * @return list<Budget>
     */
    public function ofTeam(string $team, Days $days, int $now): array
    {
        $at = min($now, $this->calendar->end($days->to - Days::DAY) - 1);

        return $this->all(max($at, $this->calendar->begin($days->from)), [$team]);
    }

    /**
     * @param  list<int>  $shares
     */
    public function set(
        string $of,
        string $name,
        BudgetPeriod $period,
        BigDecimal $amount,
        string $currency,
        int $from,
        string $by,
        array $shares = [80, 100],
        ?string $recipient = null,
    ): void {
        DB::table('budgets')->insert([
            'of' => $of, 'name' => $name, 'period' => $period->value, 'amount' => (string) $amount, 'currency' => $currency,
            'from_at' => $period->days($from)->from, 'made_by' => $by, 'made_us' => Clock::microseconds(),
            'shares' => implode(',', $shares), 'recipient' => $recipient,
        ]);
    }

    private function read(stdClass $row, int $now, bool $ahead): Budget
    {
        $period = BudgetPeriod::from($row->period);
        $today = $this->calendar->day($now);
        $days = $period->days($today);
        $cluster = $row->of === 'cluster' ? Cluster::query()->where('slug', $row->name)->first() : null;
        $isKnown = $row->of !== 'cluster' || $cluster !== null;
        $used = $isKnown ? $this->used($row, $cluster, new Days($days->from, $today + Days::DAY), $now) : null;
        [$begin, $end] = $this->calendar->span($days);

        return new Budget(
            (int) $row->id,
            $row->of,
            $row->name,
            $period,
            BigDecimal::of($row->amount)->toScale(2),
            $row->currency,
            $days,
            $used === null ? null : new BudgetUse(BigDecimal::of($row->amount), $used, ($now - $begin) / ($end - $begin)),
            $row->made_by,
            array_values(array_map(intval(...), array_filter(explode(',', $row->shares), static fn (string $one): bool => $one !== ''))),
            $row->recipient,
            $ahead && $used !== null ? $this->ahead($row, $cluster, $days, $now) : null,
        );
    }

    private function ahead(stdClass $row, ?Cluster $cluster, Days $days, int $now): ?PeriodForecast
    {
        $series = $this->costs->series($cluster, $row->currency, $now)[$row->of === 'team' ? $row->name : DailyCosts::ALL] ?? null;

        return $series === null ? null : PeriodForecast::of($series, $days);
    }

    private function used(stdClass $row, ?Cluster $cluster, Days $days, int $now): ?BigDecimal
    {
        $key = "{$days->from}|{$now}|".($cluster->slug ?? '');
        $page = $this->pages[$key] ??= CostPage::of(
            UsageScope::within($days, UsageMeasure::InFlight, $cluster),
            $this->prices,
            $now,
            UsageField::Team,
        );
        if ($page->clusters === [] || $page->currency !== $row->currency) {
            return null;
        }

        return $row->of === 'team' ? $page->parts[$row->name]['all'] ?? BigDecimal::zero()->toScale(2) : $page->total();
    }
}
