<?php

declare(strict_types=1);

namespace App\Cost\Http;

use App\Cost\Application\Saved;
use App\Cost\Application\Savings;
use App\Cost\Charts\SavingsFigure;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Export;
use App\Platform\Support\Money;
use App\Telemetry\Usage\UsageLimits;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Symfony\Component\HttpFoundation\StreamedResponse;

/**
 * What changes promised and what they saved.
 */
final readonly class SavingsController
{
    public function __construct(private Savings $savings)
    {
    }

    public function index(#[CurrentUser] User $user): View
    {
        $all = $this->all($user);
        $total = Savings::total($all);
        $sentence = $this->sentence($all, $total);
        $drawn = array_values(array_filter(
            $all,
            static fn (Saved $one): bool => $one->isInForce() && $one->promisedMoney !== null && $one->currency === ($total['currency']
                ?? $one->currency),
        ));

        return view('cost.savings', [
            'all' => $all,
            'sentence' => $sentence,
            'figure' => $drawn === [] ? null : SavingsFigure::draw($drawn, $sentence),
        ]);
    }

    /**
     * @param  list<Saved>  $all
     * @param  array{promised: BigDecimal, saved: BigDecimal, of: int, currency: string}|null  $total
     */
    private function sentence(array $all, ?array $total): string
    {
        if ($all === []) {
            return 'No change was applied yet, so nothing is saved';
        }
        if ($total !== null) {
            return ($total['of'] === 1 ? '1 change saves ' : "{$total['of']} changes save ").
                Money::exact($total['saved'], $total['currency']).' a month of the '.
                Money::exact($total['promised'], $total['currency']).' '.($total['of'] === 1 ? 'it' : 'they').' promised';
        }
        $known = array_filter(
            array_map(static fn (Saved $one): ?float => $one->isInForce() ? $one->savedUs : null, $all),
            static fn (?float $us): bool => $us !== null,
        );
        $count = count($known);

        return $known === []
            ? (count($all) === 1 ? '1 change was applied; what it saved is not known yet'
                : count($all).' changes were applied; what they saved is not known yet')
            : ($count === 1 ? '1 change saves ' : "{$count} changes save ").Quantity::duration(max(0.0, array_sum($known))).
                ' of time in flight a week';
    }

    public function export(#[CurrentUser] User $user, string $format): StreamedResponse
    {
        return Export::table($format, 'savings', array_map(static fn (Saved $one): array => [
            'change' => $one->change->id,
            'title' => $one->change->title,
            'cluster' => $one->change->cluster->slug,
            'state' => $one->change->state->value,
            'applied_at' => gmdate('c', intdiv((int) $one->change->applied_us, 1_000_000)),
            'days' => $one->days,
            'statements' => count($one->statements),
            'compared' => $one->compared,
            'promised_us_per_week' => $one->promisedUs === null ? null : (int) round($one->promisedUs),
            'saved_us_per_week' => $one->savedUs === null ? null : (int) round($one->savedUs),
            'promised_per_month' => $one->promisedMoney === null ? null : (string) $one->promisedMoney,
            'saved_per_month' => $one->savedMoney === null ? null : (string) $one->savedMoney,
            'currency' => $one->currency,
            'standing' => $one->standing(),
        ], $this->all($user)));
    }

    /**
     * @return list<Saved>
     */
    private function all(User $user): array
    {
        // What a change saves is of all teams together.
        abort_if(UsageLimits::of($user) !== null, 403, 'You see some teams only; savings are of all of them.');

        return $this->savings->all(Clock::seconds());
    }
}
