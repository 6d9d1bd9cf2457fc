<?php

declare(strict_types=1);

namespace App\Limits\Http;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Change;
use App\Limits\Application\AccountLimits;
use App\Limits\Http\Requests\LimitAccountRequest;
use App\Platform\Models\User;
use Fulcrion\Core\Text\TypedDuration;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;

/**
 * Limits live servers have for their own accounts.
 */
final readonly class AccountLimitController
{
    private const CHANGES = 10;

    public function __construct(private AccountLimits $limits)
    {
    }

    public function index(): View
    {
        $servers = [];
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::query()->where('connector', 'mariadb')->orderBy('id')->get()->all();
        foreach ($clusters as $cluster) {
            $source = $this->limits->server($cluster);
            $one = ['cluster' => $cluster, 'able' => $source !== null, 'accounts' => [], 'trouble' => null];
            try {
                $one['accounts'] = $source?->limited() ?? [];
            } catch (SourceError $error) {
                $one['trouble'] = $error->getMessage();
            }
            $servers[] = $one;
        }

        return view('limits.accounts', [
            'servers' => $servers,
            'changes' => Change::query()->where('kind', AccountLimits::KIND)->orderByDesc('id')->limit(self::CHANGES)->get(),
        ]);
    }

    public function propose(LimitAccountRequest $request, #[CurrentUser] User $user, string $slug): RedirectResponse
    {
        $cluster = Cluster::query()->where('slug', $slug)->where('connector', 'mariadb')->first() ?? abort(404);
        $data = $request->validated();
        try {
            $change = $this->limits->propose(
                $cluster,
                $data['account'],
                isset($data['time']) ? TypedDuration::us($data['time']) / 1e6 : null,
                isset($data['queries']) ? (int) $data['queries'] : null,
                $user,
            );
        } catch (SourceError $error) {
            return redirect(address('limit.accounts'))->with('failed', $error->getMessage())->withInput();
        }

        return redirect(address('change.show', $change->id));
    }
}
