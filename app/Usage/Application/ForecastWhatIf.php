<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Estate\Models\Cluster;
use App\Estate\Pricing\DailyMoney;
use App\Estate\Pricing\MoneyRates;
use App\Estate\Pricing\PricedPart;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Models\Change;
use App\Platform\Support\Clock;
use App\Platform\Support\Money;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Http\Request;
use InvalidArgumentException;

/**
 * Reads what is supposed to be otherwise: data that grow, a dashboard that is new, another price, a change that is applied, a burst
 * cluster.
 */
final readonly class ForecastWhatIf
{
    public const FIELDS = ['grows', 'also', 'every', 'price', 'costs', 'change', 'burst'];

    private const MOST_PERCENT = 1_000;

    private const MINUTES_A_DAY = 1_440;

    private const HOURS_A_DAY = 24;

    private const WEEK_DAYS = 7;

    /** Days an execution's mean is read from. */
    private const DAYS = 28;

    private const CHANGES = 40;

    public function __construct(private UsageReader $reader, private DailyMoney $money, private MoneyRates $rates)
    {
    }

    public function of(Request $request, ForecastPage $page, int $today): ForecastIf
    {
        $asked = [];
        foreach (self::FIELDS as $name) {
            $value = $request->query($name);
            $asked[$name] = is_string($value) ? mb_substr(trim($value), 0, 190) : '';
        }
        $parts = [];
        $complaint = null;
        foreach ([$this->growth(...), $this->statement(...), $this->price(...), $this->change(...), $this->burst(...)] as $read) {
            try {
                $part = $read($asked, $page, $today);
                if ($part !== null) {
                    $parts[] = $part;
                }
            } catch (InvalidArgumentException $error) {
                $complaint ??= $error->getMessage();
            }
        }

        return new ForecastIf($complaint === null ? $parts : [], $asked, $complaint);
    }

    /**
     * Changes nobody has applied yet that would save time.
     *
     * @return array<int, string> title by number
     */
    public function changes(ForecastPage $page): array
    {
        if (! $page->knowsTime()) {
            return [];
        }
        $titles = [];
        $open = [ChangeState::Proposed->value, ChangeState::Rehearsed->value, ChangeState::Approved->value];
        foreach (Change::query()->with('cluster')->whereIn('state', $open)->orderByDesc('id')->limit(self::CHANGES)->get() as $change) {
            $isSeen = $page->scope->cluster === null || $page->scope->cluster->id === $change->cluster_id;
            if ($isSeen && self::savedUs($change) > 0) {
                $titles[$change->id] = "{$change->title}, {$change->cluster->name}";
            }
        }

        return $titles;
    }

    /**
     * @param  array<string, string>  $asked
     */
    private function growth(array $asked): ?IfPart
    {
        $grows = rtrim($asked['grows'], ' %');
        if ($grows === '') {
            return null;
        }
        if (! is_numeric($grows) || (float) $grows > self::MOST_PERCENT || (float) $grows < -100) {
            throw new InvalidArgumentException('Growth is a percentage from -100 to '.self::MOST_PERCENT.', as 20.');
        }
        $percent = (float) $grows;

        return $percent === 0.0 ? null : new IfPart(
            'the days that are left have '.Quantity::digits(abs($percent)).'% '.($percent > 0 ? 'more' : 'less'),
            1 + $percent / 100,
        );
    }

    /**
     * @param  array<string, string>  $asked
     */
    private function statement(array $asked, ForecastPage $page, int $today): ?IfPart
    {
        $every = $asked['every'] === '' ? '5' : $asked['every'];
        if (! ctype_digit($every) || (int) $every < 1 || (int) $every > self::MINUTES_A_DAY) {
            throw new InvalidArgumentException('How often it runs is a number of minutes from 1 to '.self::MINUTES_A_DAY.', as 5.');
        }
        if ($asked['also'] === '') {
            return null;
        }
        if (preg_match('~^[0-9a-f]{32}$~D', $asked['also']) !== 1) {
            throw new InvalidArgumentException('A statement is named by the 32 characters of its address.');
        }
        $each = $this->each($asked['also'], $page, $today) ?? throw new InvalidArgumentException(
            'That statement did not run in the last four weeks, so nothing is known of what an execution has.',
        );

        return new IfPart(
            'statement '.substr($asked['also'], 0, 8).' runs every '.((int) $every === 1 ? 'minute' : "{$every} minutes").' as well',
            perDay: self::MINUTES_A_DAY / (int) $every * $each,
        );
    }

    /** What one execution of it has on the mean, whoever ran it; null where it did not run in the last weeks. */
    private function each(string $statement, ForecastPage $page, int $today): ?float
    {
        $days = new Days($today - self::DAYS * Days::DAY, $today);
        $measure = $page->currency === null ? $page->scope->measure : UsageMeasure::InFlight;
        $only = [UsageField::Statement->value => $statement];
        $scope = UsageScope::within($days, $measure, $page->scope->cluster, $only, $page->scope->teams);
        $amount = $executions = 0.0;
        foreach ($this->reader->by(UsageField::Cluster, $scope, $days) as $slug => $used) {
            $amount += $page->currency === null ? $used->amount : $used->amount * $this->rate((string) $slug, $page->currency);
            $executions += $used->executions;
        }

        return $executions < 1 ? null : $amount / $executions;
    }

    /** Money for a microsecond in flight on a cluster, modelled; nothing where it has no price in the currency. */
    private function rate(string $slug, string $currency): float
    {
        $cluster = Cluster::query()->where('slug', $slug)->first();

        return $cluster === null ? 0.0 : $this->rates->of($cluster)?->inFlightUs($currency) ?? 0.0;
    }

    /**
     * @param  array<string, string>  $asked
     */
    private function price(array $asked, ForecastPage $page): ?IfPart
    {
        if ($asked['price'] === '' || $asked['costs'] === '') {
            return null;
        }
        $part = $this->part($page, static fn (PricedPart $one): bool => $one->key === $asked['price'])
            ?? throw new InvalidArgumentException('Choose one of the prices in force, and look at cost.');
        $costs = self::number($asked['costs'], 'A price is a number with a point, as 2.50.');

        return new IfPart(
            "{$part->label}, costs ".Money::plain($costs, $part->currency).' instead of '.Money::plain($part->price, $part->currency),
            1 + $part->share * ($costs / $part->price - 1),
        );
    }

    /**
     * @param  callable(PricedPart): bool  $is
     */
    private function part(ForecastPage $page, callable $is): ?PricedPart
    {
        foreach ($page->currency === null ? [] : $this->money->parts($page->scope->cluster, Clock::seconds()) as $one) {
            if ($is($one)) {
                return $one;
            }
        }

        return null;
    }

    /**
     * @param  array<string, string>  $asked
     */
    private function change(array $asked, ForecastPage $page): ?IfPart
    {
        if ($asked['change'] === '') {
            return null;
        }
        $change = ctype_digit($asked['change']) ? Change::query()->with('cluster')->find((int) $asked['change']) : null;
        if ($change === null || ! isset($this->changes($page)[$change->id])) {
            throw new InvalidArgumentException(
                'Choose a change that is not applied yet and saves time, and look at time in flight or cost.',
            );
        }
        $perDay = self::savedUs($change) / self::WEEK_DAYS;

        return new IfPart("change {$change->id} is applied: {$change->title}", perDay: -$perDay
            * ($page->currency === null ? 1.0 : $this->rate($change->cluster->slug, $page->currency)));
    }

    /** What it is expected to save a week. */
    private static function savedUs(Change $change): float
    {
        $saved = $change->expected['savedUs'] ?? 0.0;

        return is_numeric($saved) ? (float) $saved : 0.0;
    }

    /**
     * @param  array<string, string>  $asked
     */
    private function burst(array $asked, ForecastPage $page): ?IfPart
    {
        if ($asked['burst'] === '') {
            return null;
        }
        $hours = self::number($asked['burst'], 'Hours a day are a number, as 1.5.');
        if ($hours > self::HOURS_A_DAY) {
            throw new InvalidArgumentException('A day has 24 hours at most.');
        }
        $part = $this->part($page, static fn (PricedPart $one): bool => $one->isBurst) ?? throw new InvalidArgumentException(
            'Look at cost, and give an hour of a burst cluster a price on the page Prices.',
        );

        return new IfPart(
            'a burst cluster runs '.Quantity::digits($hours).' hours a day, '.Money::plain($part->price, $part->currency).' each',
            perDay: $hours * $part->price,
        );
    }

    private static function number(string $text, string $complaint): float
    {
        return preg_match('~^\d{1,9}(\.\d{1,6})?$~D', $text) === 1 ? (float) $text : throw new InvalidArgumentException($complaint);
    }
}
