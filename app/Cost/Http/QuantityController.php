<?php

declare(strict_types=1);

namespace App\Cost\Http;

use App\Cost\Application\Quantities;
use App\Cost\Application\Reservations;
use App\Cost\Http\Requests\AddQuantityRequest;
use App\Cost\Http\Requests\ReserveRequest;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Usage\Days;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Http\RedirectResponse;

/**
 * How much there is of what is paid for, as far as it is not measured, and who reserved which part of a cluster.
 */
final readonly class QuantityController
{
    public function __construct(private Ledger $ledger)
    {
    }

    public function add(AddQuantityRequest $request, #[CurrentUser] User $user, Cluster $cluster): RedirectResponse
    {
        $data = $request->validated();
        $kind = PriceKind::from($data['kind']);
        $from = self::day($data['from']);
        Quantities::add(
            $cluster,
            $kind,
            trim((string) ($data['name'] ?? '')),
            BigDecimal::of($data['quantity']),
            $from,
            // What flowed on one day is of that day; what is kept goes on.
            $kind->isLevel() ? null : self::day($data['to'] ?? $data['from']) + Days::DAY,
            $user->name,
        );
        $this->ledger->record($user, 'wrote down a quantity', $cluster->name, $data);

        return CostController::back($cluster)->with('done', 'It is counted from now on.');
    }

    public function remove(#[CurrentUser] User $user, Cluster $cluster, int $quantity): RedirectResponse
    {
        $removed = Quantities::remove($cluster, $quantity) ?? abort(404);
        $this->ledger->record($user, 'removed a quantity', $cluster->name, [
            'kind' => (string) $removed->kind, 'quantity' => (string) $removed->quantity,
        ]);

        return CostController::back($cluster)->with('done', 'It is gone; what was computed from it is computed without it from now on.');
    }

    public function reserve(ReserveRequest $request, #[CurrentUser] User $user, Cluster $cluster): RedirectResponse
    {
        $data = $request->validated();
        $to = isset($data['to']) ? self::day($data['to']) + Days::DAY : null;
        $most = Reservations::most($cluster, (float) $data['percent'], self::day($data['from']), $to);
        if ($most > 100.0) {
            return CostController::back($cluster)->withInput()->withErrors([
                'percent' => 'Together '.round($most, 4)." percent of {$cluster->name} would be reserved at once. End another one first.",
            ]);
        }
        Reservations::add($cluster, trim($data['team']), $data['percent'], self::day($data['from']), $to, $user->name);
        $this->ledger->record($user, 'wrote down a reservation', $cluster->name, $data);

        return CostController::back($cluster)->with('done', 'It is reserved.');
    }

    public function release(#[CurrentUser] User $user, Cluster $cluster, int $reservation): RedirectResponse
    {
        $removed = Reservations::remove($cluster, $reservation) ?? abort(404);
        $this->ledger->record($user, 'removed a reservation', $cluster->name, [
            'team' => (string) $removed->team, 'percent' => (string) $removed->percent,
        ]);

        return CostController::back($cluster)->with('done', 'The reservation is gone, for the days that are over as well.');
    }

    private static function day(string $date): int
    {
        return (int) strtotime("{$date} UTC");
    }
}
