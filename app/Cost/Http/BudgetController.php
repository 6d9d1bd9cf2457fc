<?php

declare(strict_types=1);

namespace App\Cost\Http;

use App\Cost\Application\Budget;
use App\Cost\Application\Budgets;
use App\Cost\Application\TeamAccounts;
use App\Cost\Charts\BudgetsFigure;
use App\Cost\Http\Requests\SetBudgetRequest;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\MomentStyle;
use App\Telemetry\Usage\UsageLimits;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\BudgetPeriod;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;

/**
 * What people plan to spend, and how fast they do.
 */
final readonly class BudgetController
{
    public function __construct(private Budgets $budgets, private Ledger $ledger, private Calendar $calendar)
    {
    }

    public function index(#[CurrentUser] User $user): View
    {
        $now = Clock::seconds();
        $budgets = $this->budgets->all($now, UsageLimits::of($user), true);
        $sentence = self::sentence($budgets);

        return view('cost.budgets', [
            'sentence' => $sentence,
            'budgets' => $budgets,
            'figure' => $budgets === [] ? null : BudgetsFigure::draw($budgets, $sentence),
            'teams' => TeamAccounts::teams(),
            'clusters' => Cluster::query()->orderBy('name')->get(['slug', 'name']),
            'month' => gmdate('Y-m', $this->calendar->shown($now)),
        ]);
    }

    public function set(SetBudgetRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        [$of, $name] = [...explode(':', $data['of'], 2), ''];
        $this->budgets->set(
            $of,
            $name,
            BudgetPeriod::from($data['period']),
            BigDecimal::of($data['amount']),
            $data['currency'],
            (int) strtotime("{$data['from']}-01 UTC"),
            $user->name,
            SetBudgetRequest::shares($data['shares'] ?? ''),
            $data['recipient'] ?? null,
        );
        $this->ledger->record($user, 'set a budget', $data['of'], $data);

        return redirect(address('budget.index'))->with('done', BigDecimal::of($data['amount'])->isZero()
            ? 'The budget ends with that month.' : 'The budget is set.');
    }

    /**
     * @param  list<Budget>  $budgets
     */
    private static function sentence(array $budgets): string
    {
        $known = array_values(array_filter($budgets, static fn (Budget $one): bool => $one->use !== null));
        if ($known === []) {
            return $budgets === [] ? 'No budget is set' : 'Nothing is priced in the currency of any budget';
        }
        usort($known, static fn (Budget $a, Budget $b): int => ($b->use?->share() ?? 0.0) <=> ($a->use?->share() ?? 0.0));
        $passed = array_filter($known, static fn (Budget $one): bool => $one->use?->isPassed() === true);
        $ahead = array_values(array_filter($known, static fn (Budget $one): bool => $one->passes() !== null));
        $fast = array_filter($known, static fn (Budget $one): bool => $one->forecast === null && $one->use?->isFast() === true);
        $count = static fn (array $some): string => count($some) === 1 ? '1 budget' : count($some).' budgets';
        $first = $known[0];

        return match (true) {
            $passed !== [] => "{$count($passed)} of ".count($budgets).' '.(count($passed) === 1 ? 'is' : 'are').
                " passed: {$first->whose()} spent ".Quantity::percent($first->use?->share() ?? 0.0).' of it',
            $ahead !== [] => "{$count($ahead)} of ".count($budgets)." will be passed: {$ahead[0]->whose()} about ".
                onUtc((int) $ahead[0]->passes(), MomentStyle::ShortDay),
            $fast !== [] => "{$count($fast)} of ".count($budgets).' '.(count($fast) === 1 ? 'is' : 'are').
                ' spent faster than the time goes by; '.array_values($fast)[0]->whose().' is the first',
            default => count($budgets) === 1 ? 'The one budget will hold' : 'All '.count($budgets).' budgets will hold',
        };
    }
}
