<?php

declare(strict_types=1);

namespace App\Cost\Http;

use App\Cost\Application\ClusterCost;
use App\Cost\Application\CostPage;
use App\Cost\Application\CostRule;
use App\Cost\Application\Prices;
use App\Cost\Application\Quantities;
use App\Cost\Application\Remedies;
use App\Cost\Application\Reservations;
use App\Cost\Application\StoredBytes;
use App\Cost\Application\TeamAccounts;
use App\Cost\Application\WorkerUse;
use App\Cost\Http\Requests\AddPriceRequest;
use App\Cost\Http\Requests\SetCostRuleRequest;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Export;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use Brick\Math\BigDecimal;
use DateTimeImmutable;
use Fulcrion\Core\Cost\Allocation;
use Fulcrion\Core\Cost\IdleRule;
use Fulcrion\Core\Cost\Price;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/**
 * What clusters cost, whose it is, and the prices it is computed from.
 */
final readonly class CostController
{
    /** Rows a page shows; a file has all of them. */
    public const MOST = 100;

    public function __construct(private Prices $prices, private Ledger $ledger)
    {
    }

    public function index(Request $request, UsageReader $reader, Remedies $remedies): View
    {
        $page = $this->page($request);
        $costs = $page->by !== UsageField::Statement || $page->byTables ? []
            : array_map(
                static fn (array $one): BigDecimal => $one['all'],
                array_diff_key($page->foremost(self::MOST), [WorkerUse::JOBS => 1, ClusterCost::RESERVED => 1]),
            );

        return view('cost.cost', [
            'page' => $page,
            'texts' => $costs === [] ? [] : $reader->texts(array_map(strval(...), array_keys($costs))),
            'remedies' => $costs === [] ? [] : $remedies->of($costs, $page->scope),
            'clusters' => Cluster::query()->orderBy('name')->get(['slug', 'name']),
        ]);
    }

    public function export(Request $request, string $format): StreamedResponse
    {
        $page = $this->page($request);
        $rows = [];
        foreach ($page->parts as $part => $cost) {
            $rows[] = [
                $page->byLabel() => match ($part) {
                    Allocation::IDLE => 'idle',
                    WorkerUse::JOBS => 'jobs',
                    ClusterCost::RESERVED => 'reserved and not used',
                    default => (string) $part,
                },
                'fixed' => (string) $cost['shared'],
                'by_use' => (string) $cost['own'],
                'all' => (string) $cost['all'],
                'currency' => $page->currency,
            ];
        }

        return Export::table($format, "cost-by-{$page->byLabel()}", $rows);
    }

    public function prices(Request $request): View
    {
        $clusters = Cluster::query()->orderBy('name')->get();
        $cluster = Cluster::chosen($clusters, $request->query('cluster'));

        return view('cost.prices', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'rows' => $cluster === null ? [] : $this->prices->rows($cluster),
            'rule' => $cluster === null ? null : $this->prices->rule($cluster),
            'zone' => app(Calendar::class)->zone->getName(),
            'quantities' => $cluster === null ? [] : Quantities::rows($cluster),
            'stored' => $cluster === null ? null : StoredBytes::latest($cluster),
            'reservations' => $cluster === null ? [] : Reservations::rows($cluster),
            'teams' => TeamAccounts::teams(),
        ]);
    }

    public function add(AddPriceRequest $request, #[CurrentUser] User $user, Cluster $cluster): RedirectResponse
    {
        $data = $request->validated();
        $price = new Price(
            PriceKind::from($data['kind']),
            trim((string) ($data['name'] ?? '')),
            BigDecimal::of($data['amount']),
            (new DateTimeImmutable($data['from'], app(Calendar::class)->zone))->getTimestamp(),
            BigDecimal::of($data['quantity'] ?? '1'),
            BigDecimal::of($data['above'] ?? '0'),
            (bool) ($data['is_reserved'] ?? false),
        );
        $this->prices->add($cluster, $price, $user->name);
        $this->ledger->record($user, 'added a price', $cluster->name, [
            'kind' => $price->kind->value, 'amount' => (string) $price->amount, 'from' => $data['from'],
        ]);

        return self::back($cluster)->with('done', 'The price is in the book.');
    }

    public function remove(#[CurrentUser] User $user, Cluster $cluster, int $price): RedirectResponse
    {
        $removed = $this->prices->remove($cluster, $price) ?? abort(404);
        $this->ledger->record($user, 'removed a price', $cluster->name, [
            'kind' => $removed->kind->value, 'amount' => (string) $removed->amount,
        ]);

        return self::back($cluster)->with('done', 'The price is gone; what was computed from it is computed without it from now on.');
    }

    public function rule(SetCostRuleRequest $request, #[CurrentUser] User $user, Cluster $cluster): RedirectResponse
    {
        $data = $request->validated();
        $this->prices->setRule($cluster, new CostRule(
            $data['currency'],
            UsageMeasure::from($data['follows']),
            IdleRule::from($data['idle']),
        ));
        $this->ledger->record($user, 'changed how cost is given to teams', $cluster->name, $data);

        return self::back($cluster)->with('done', 'Cost is given to teams by that from now on.');
    }

    public static function back(Cluster $cluster): RedirectResponse
    {
        return redirect(address('cost.prices')."?cluster={$cluster->slug}");
    }

    private static function by(Request $request): UsageField
    {
        $by = $request->query('by');
        $by = is_string($by) ? UsageField::tryFrom($by) : null;

        return in_array($by, UsageField::ofCost(), true) ? $by : UsageField::Team;
    }

    private function page(Request $request): CostPage
    {
        $now = Clock::seconds();
        if (! is_string($request->query('days')) || trim($request->query('days')) === '') {
            $request->query->set('days', 'this month');
        }

        $scope = UsageScope::of($request, $now);
        $team = $scope->only[UsageField::Team->value] ?? null;
        abort_if($team !== null && $scope->teams !== null && ! in_array($team, $scope->teams, true), 403, 'You see some teams only.');

        return CostPage::of($scope, $this->prices, $now, self::by($request), $request->query('by') === CostPage::TABLES);
    }
}
