<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Ledger\Models\Subscription;
use App\Ledger\Notifications\ForOutbox;
use App\Platform\Support\Money;
use Fulcrion\Core\Text\Quantity;

/**
 * A share of a budget is spent: once for each share and period.
 */
final class BudgetNotification extends ForOutbox
{
    public function __construct(private readonly Budget $budget, private readonly int $share)
    {
    }

    public function toOutbox(?Subscription $subscription): array
    {
        $use = $this->budget->use;
        $money = Money::exact($this->budget->amount, $this->budget->currency);
        $spent = $use === null ? '' : Money::exact($use->used, $this->budget->currency).' of '.$money.' are spent, when '.
            Quantity::percent($use->gone).' of the time is over.';
        $more = $this->budget->use?->isPassed() === true || $this->budget->passes() === null ? ''
            : " It {$this->budget->standing()}.";

        return [
            "{$this->share}% of the budget of {$this->budget->whose()} is spent, {$this->budget->days->describe()}",
            "{$spent}{$more}\n\n".config('app.url').address('budget.index')."\n",
        ];
    }

    /** It tells what a team costs, which not everybody may see. */
    public function ability(): string
    {
        return 'price';
    }
}
