<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Cost\Charts\BillFigure;
use App\Estate\Models\Cluster;
use App\Platform\Figures\Figure;
use App\Platform\Support\MomentStyle;
use App\Platform\Support\Money;
use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Fulcrion\Core\Cost\Bill\BillMatch;
use Fulcrion\Core\Cost\Bill\Reconciliation;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;
use stdClass;

/**
 * A bill beside what was computed for its days.
 */
final readonly class BillPage
{
    /**
     * @param  array<string, string>  $names of clusters, by address name
     */
    private function __construct(
        public stdClass $bill,
        public Reconciliation $reconciliation,
        public string $currency,
        public array $names,
    ) {
    }

    public static function of(stdClass $bill, Bills $bills, Prices $prices): self
    {
        $lines = $bills->linesOf($bill);
        $resources = $bills->resources();
        $billed = [];
        foreach ($lines as $line) {
            $billed[$resources[$line->resource] ?? ''] = true;
        }
        $names = $computed = $ran = $known = [];
        $currency = $bill->currency;
        // Days of a bill are days of UTC.
        [$from, $to] = [(int) $bill->from_at, (int) $bill->to_at];
        // A cluster the bill does not name has a bill of its own.
        foreach (Cluster::query()->whereIn('slug', array_keys($billed))->orderBy('name')->get() as $cluster) {
            $names[$cluster->slug] = $cluster->name;
            $currency = $prices->rule($cluster)->currency;
            $computed[$cluster->slug] = ClusterCost::daily($cluster, $prices->book($cluster), $from, $to, Calendar::utc());
            [$ran[$cluster->slug], $span] = self::use($cluster, $from, $to);
            if ($span !== null) {
                $known[$cluster->slug] = $span;
            }
        }

        return new self($bill, Reconciliation::of($lines, $computed, $resources, $ran, $known), $currency, $names);
    }

    public function sentence(): string
    {
        $difference = $this->reconciliation->difference();
        $span = Bills::span($this->bill);
        if ($this->reconciliation->differences() === []) {
            return "The bill of {$span} agrees with the price book: {$this->money($this->reconciliation->billed())}";
        }
        $count = count($this->reconciliation->differences());
        $more = match (true) {
            $difference->toScale(2, RoundingMode::HALF_UP)->isZero() => 'is as high as what was computed',
            default => "is {$this->money($difference->abs())} ".($difference->isPositive() ? 'above' : 'below').' what was computed',
        };

        return "The bill of {$span} {$more}; ".Quantity::count($count).' '.Str::plural('difference', $count)
            .($count === 1 ? ' explains it' : ' explain it');
    }

    public function money(BigDecimal $amount): string
    {
        return Money::exact($amount, $this->currency);
    }

    public function cluster(BillMatch $match): string
    {
        return $match->unknownResource() ?? $this->names[$match->cluster];
    }

    public function what(BillMatch $match): string
    {
        return $match->kind?->name() ?? strtolower($match->category->value ?? 'other');
    }

    public function days(BillMatch $match): string
    {
        $day = static fn (int $at): string => onUtc($at, MomentStyle::ShortDay);
        $count = count($match->days);

        return $count === 1 ? $day($match->days[0])
            : "{$day($match->days[0])} to {$day(max($match->days))}, {$count} days";
    }

    /**
     * @return list<string> resources of the bill that are no cluster anybody knows
     */
    public function unknown(): array
    {
        $unknown = [];
        foreach ($this->reconciliation->matches as $match) {
            $resource = $match->unknownResource();
            if ($resource !== null) {
                $unknown[$resource] = true;
            }
        }

        return array_map(strval(...), array_keys($unknown));
    }

    public function figure(): Figure
    {
        return BillFigure::draw($this);
    }

    /**
     * @return list<array<string, string|int>> for files
     */
    public function table(): array
    {
        return array_map(fn (BillMatch $match): array => [
            'cluster' => $this->cluster($match),
            'what' => $this->what($match),
            'agreement' => $match->agreement->label(),
            'days' => count($match->days),
            'first_day' => onUtc($match->days[0], MomentStyle::Written),
            'billed' => (string) $match->billed,
            'computed' => (string) $match->computed,
            'difference' => (string) $match->difference(),
            'currency' => $this->currency,
            'likely_cause' => $match->cause(),
        ], $this->reconciliation->matches);
    }

    /**
     * @return array{array<int, true>, array{int, int}|null} days on which something ran, and the first and last day of which that is known
     */
    private static function use(Cluster $cluster, int $from, int $to): array
    {
        $days = new Days(Days::start($from) - Days::DAY, Days::start($to - 1) + Days::DAY);
        $used = DailyUse::of($cluster, UsageMeasure::Executions, $days, Calendar::utc());
        $ran = array_fill_keys(array_keys(array_filter($used, static fn (int $count): bool => $count > 0)), true);
        $known = DB::table('usage_origin_days')->where('cluster_id', $cluster->id)
            ->selectRaw('MIN(day_at) AS first, MAX(day_at) AS last')->first();

        return [$ran, $known?->first === null ? null : [(int) $known->first, (int) $known->last]];
    }
}
