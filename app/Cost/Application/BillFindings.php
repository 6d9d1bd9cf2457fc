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
use App\Platform\Support\Clock;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Bill\Agreement;
use Fulcrion\Core\Cost\Bill\BillMatch;
use Fulcrion\Core\Cost\Bill\ChargeCategory;

/**
 * Where a bill of the last two months says something else than the price book, and somebody should ask.
 */
final readonly class BillFindings
{
    public const SOURCE = 'bill';

    private const RECENT = 62 * 86_400;

    /** A smaller part of the bill is not worth a question. */
    private const LEAST = '0.001';

    public function __construct(private Findings $findings, private Bills $bills, private Prices $prices)
    {
    }

    public function report(): void
    {
        $reported = [];
        foreach ($this->bills->all() as $bill) {
            if ((int) $bill->to_at < Clock::seconds() - self::RECENT) {
                continue;
            }
            $page = BillPage::of($bill, $this->bills, $this->prices);
            $least = $page->reconciliation->billed()->abs()->multipliedBy(self::LEAST);
            foreach ($page->reconciliation->differences() as $match) {
                if (isset($page->names[$match->cluster]) && self::isAsked($match, $least)) {
                    $reported[$match->cluster][] = $this->reported($page, $match);
                }
            }
        }
        foreach (Cluster::query()->get() as $cluster) {
            $this->findings->reconcile($cluster, self::SOURCE, $reported[$cluster->slug] ?? []);
        }
    }

    /** Nobody asks about taxes and credits. */
    private static function isAsked(BillMatch $match, BigDecimal $least): bool
    {
        return ! in_array($match->category, [ChargeCategory::Credit, ChargeCategory::Tax], true)
            && $match->difference()->abs()->isGreaterThan($least);
    }

    private function reported(BillPage $page, BillMatch $match): Reported
    {
        $difference = $match->difference();
        $amount = $page->money($difference->abs());
        $what = "{$page->what($match)}, {$page->days($match)}";

        return new Reported(
            $match->isUnused ? 'billed_unused' : 'bill_'.$match->agreement->value.($difference->isNegative() ? '_less' : ''),
            FindingSubject::item("{$page->cluster($match)}: {$what}"),
            Severity::of($difference->isPositive()),
            match (true) {
                $match->isUnused => "{$amount} were billed for days on which nothing ran: {$what}",
                $match->agreement === Agreement::OnlyComputed => "{$amount} were computed that the bill does not have: {$what}",
                $difference->isPositive() => "The bill is {$amount} higher than the price book says: {$what}",
                default => "The bill is {$amount} lower than the price book says: {$what}",
            },
            [
                new Evidence('bill', (string) $page->bill->file_name),
                new Evidence('billed', $page->money($match->billed)),
                new Evidence('computed', $page->money($match->computed)),
                new Evidence('likely cause', $match->cause()),
                Evidence::remedy($match->isUnused
                    ? 'Ask the provider why the nodes were on, and have them switched off when nobody uses them.'
                    : 'Compare the contract with the price book; correct the price book, or ask the provider to correct the bill.'),
            ],
            Weight::none(),
            '',
        );
    }
}
