<?php

declare(strict_types=1);

namespace App\Limits\Http;

use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Limits\Application\Allowances;
use App\Limits\Application\KeptAllowance;
use App\Limits\Charts\AllowanceFigure;
use App\Limits\Http\Requests\AddAllowanceRequest;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Fulcrion\Core\Limits\Allowance;
use Fulcrion\Core\Limits\AllowanceMeasure;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;

/**
 * What accrues, and is used up first.
 */
final readonly class AllowanceController
{
    public function __construct(private Allowances $allowances, private Ledger $ledger)
    {
    }

    public function index(): View
    {
        $all = $this->allowances->all(Clock::seconds());

        return view('limits.allowances', [
            'allowances' => $all,
            'figures' => array_map(static fn (KeptAllowance $one) => AllowanceFigure::draw($one), $all),
            'clusters' => Cluster::query()->orderBy('name')->get(['slug', 'name']),
        ]);
    }

    public function add(AddAllowanceRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        $cluster = Cluster::query()->where('slug', $data['cluster'])->firstOrFail();
        $this->allowances->add(
            $cluster,
            AllowanceMeasure::from($data['measure']),
            new Allowance((float) $data['per_day'], (float) $data['cap'], (float) ($data['start'] ?? 0)),
            (int) strtotime("{$data['from']} UTC"),
            $data['price'] ?? null,
            $data['currency'],
            $user->name,
        );
        $this->ledger->record($user, 'set an allowance', $cluster->name, $data);

        return redirect(address('allowance.index'))->with('done', 'The allowance is set.');
    }

    public function remove(#[CurrentUser] User $user, int $allowance): RedirectResponse
    {
        abort_unless($this->allowances->remove($allowance), 404);
        $this->ledger->record($user, 'removed an allowance', (string) $allowance, []);

        return redirect(address('allowance.index'))->with('done', 'The allowance is removed.');
    }
}
