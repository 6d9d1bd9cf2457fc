<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Ledger\Models\Finding;
use App\Ledger\Notifications\OutboxChannel;
use App\Platform\Support\Clock;
use App\Platform\Support\MomentStyle;
use App\Platform\Support\Money;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;

/**
 * Budgets that are passed or will be, and letters at the shares people wanted to be told of.
 */
final readonly class BudgetFindings
{
    public const SOURCE = 'budget';

    private const BUDGET = 'budget';

    public function __construct(private Budgets $budgets, private Findings $findings, private OutboxChannel $outbox)
    {
    }

    /**
     * @return int letters that went into the outbox
     */
    public function report(int $now): int
    {
        $reported = [];
        $letters = 0;
        foreach ($this->budgets->all($now, null, true) as $budget) {
            $cluster = $this->cluster($budget);
            if ($cluster !== null && $budget->use !== null && in_array($budget->mark(), ['act', 'watch'], true)) {
                $reported[$cluster->id][] = self::reported($budget);
            }
            $letters += $this->write($budget);
        }
        foreach (Cluster::query()->get() as $cluster) {
            $this->findings->reconcile($cluster, self::SOURCE, $reported[$cluster->id] ?? []);
        }

        return $letters;
    }

    /** Where it is looked for: of what is of several clusters, the one that was there first. */
    private function cluster(Budget $budget): ?Cluster
    {
        return $budget->of === 'cluster' ? Cluster::query()->where('slug', $budget->name)->first()
            : Cluster::query()->whereIn('id', DB::table('cost_prices')->select('cluster_id'))->orderBy('id')->first();
    }

    private static function reported(Budget $budget): Reported
    {
        $isPassed = $budget->use?->isPassed() === true;
        $day = $budget->passes();
        $on = $day === null ? '' : onUtc($day, MomentStyle::ShortDay);
        $money = Money::exact($budget->amount, $budget->currency);

        return new Reported(
            $isPassed ? 'budget-passed' : 'budget-will-pass',
            FindingSubject::item("budget of {$budget->whose()}, a {$budget->period->value}"),
            Severity::of($isPassed),
            "{$budget->whose()} ".($isPassed ? "passed its budget of {$money}".($on === '' ? '' : " on {$on}")
                : "will pass its budget of {$money} about {$on}"),
            [
                new Evidence(self::BUDGET, $money),
                new Evidence('period', $budget->days->describe()),
                new Evidence('spent', $budget->use === null ? '' : Money::exact($budget->use->used, $budget->currency).', '.
                    Quantity::percent($budget->use->share()).', when '.Quantity::percent($budget->use->gone).' of the time is over'),
                new Evidence('expected', $budget->forecast === null ? 'not known'
                    : Money::short($budget->forecast->expected(), $budget->currency).' at the end, modelled from each day up to yesterday'),
                Evidence::remedy('Look at what changed on its page, and at the open findings that would make it cheaper; or set another '
                    .'budget.'),
            ],
            Weight::none(),
            '',
        );
    }

    /**
     * What a form for a limit is filled with, so that no more is spent; null where a limit cannot say whose it is.
     *
     * @return array<string, string>|null for an address
     */
    public static function limit(Finding $finding): ?array
    {
        $amount = '';
        foreach ($finding->evidence as $one) {
            $amount = $one->label === self::BUDGET ? (string) preg_replace('~[^\d.]~', '', $one->value) : $amount;
        }
        if (preg_match('~^budget of (.+), a month$~Ds', $finding->subject()->name, $match) !== 1 || $match[1] === 'all clusters') {
            return null;
        }

        return [
            'of' => str_starts_with($match[1], 'cluster ') ? $match[1] : "team {$match[1]}",
            'measure' => 'cost', 'period' => 'month', 'amount' => $amount,
        ];
    }

    private function write(Budget $budget): int
    {
        $letters = 0;
        $spent = 100 * ($budget->use?->share() ?? 0.0);
        foreach ($budget->shares as $share) {
            if ($spent < $share) {
                continue;
            }
            // Whoever writes it down first sends it.
            $isNew = DB::table('budget_notes')->insertOrIgnore([
                'budget_id' => $budget->id, 'from_at' => $budget->days->from, 'share' => $share, 'made_us' => Clock::microseconds(),
            ]) === 1;
            if ($isNew && $budget->recipient !== null) {
                $this->outbox->write($budget->recipient, new BudgetNotification($budget, $share));
                $letters++;
            }
        }

        return $letters;
    }
}
