<?php

declare(strict_types=1);

namespace App\Overview\Http;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Causes;
use App\Ledger\Findings\FindingState;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Worth;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Overview\Application\Gains;
use App\Overview\Charts\RoundFigure;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Money;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Support\Facades\DB;

/**
 * What needs attention today, worst first, and what changed since one last looked.
 */
final readonly class RoundController
{
    /** Looks less than this apart are one look, so that a reload does not wipe what is new. */
    private const ONE_LOOK_US = 1_800_000_000;

    private const SHOWN = 40;

    public function __construct(private Causes $causes, private Worth $worth, private Gains $gains)
    {
    }

    public function __invoke(#[CurrentUser] User $user): View
    {
        $since = $this->look($user);
        /** @var Collection<int, Finding> $waiting */
        $waiting = Finding::waiting()->with('cluster')->limit(self::SHOWN)->get();
        $count = Finding::waiting()->count();
        $changes = Change::query()
            ->with('cluster')
            ->where(
                static fn ($query) => $query
                    ->whereIn('state', ['rehearsed', 'approved'])
                    ->orWhere('doing', '!=', '')
                    ->orWhere('state', 'failed'),
            )
            ->orderByDesc('id')
            ->limit(20)
            ->get();

        [$gains, $currency, $left] = $this->gains->all(Clock::microseconds());
        $sentence = $this->sentence($count);

        return view('overview.round', [
            'figure' => $gains === [] ? null : RoundFigure::draw($gains, $currency, $sentence, $left),
            'waiting' => $waiting,
            'causes' => $this->causes->of($waiting),
            'count' => $count,
            'changes' => $changes,
            'since' => $since,
            'new' => $since === null
                    ? new Collection()
                    : Finding::waiting()->with('cluster')->where('changed_us', '>', $since)->limit(30)->get(),
            'solved' => $since === null
                    ? new Collection()
                    : Finding::query()
                        ->with('cluster')
                        ->where('state', FindingState::Solved)
                        ->where('solved_us', '>', $since)
                        ->orderByDesc('solved_us')
                        ->limit(20)
                        ->get(),
            'sentence' => $sentence,
        ]);
    }

    private function sentence(int $count): string
    {
        $acts = Finding::waiting()->where('severity', Severity::Act)->count();
        $weights = Finding::waitingQueryUsByCluster();

        return $count === 0
            ? 'Nothing needs attention'
            : ($acts === 1 ? '1 thing needs' : "{$acts} things need").
                ' attention, '.
                ($count - $acts).
                ' more '.
                ($count - $acts === 1 ? 'is' : 'are').
                ' worth watching; together they cost '.
                Quantity::duration(array_sum($weights)).
                ' of query time a week'.
                $this->money($weights);
    }

    /**
     * What that is in money a month, of the clusters whose price book tells it in one currency.
     *
     * @param  array<int, float>  $weights microseconds a week by cluster
     */
    private function money(array $weights): string
    {
        $sums = [];
        $isAll = true;
        foreach ($weights as $id => $us) {
            $cluster = Cluster::query()->find($id);
            $amount = $cluster === null ? null : $this->worth->ofSaved($cluster, $us);
            $isAll = $isAll && $amount !== null;
            if ($cluster !== null && $amount !== null) {
                $currency = $this->worth->currency($cluster);
                $sums[$currency] = ($sums[$currency] ?? 0.0) + $amount->toFloat();
            }
        }

        return count($sums) !== 1 ? '' : ', about '.Money::plain(array_sum($sums), (string) array_key_first($sums)).' a month'
            .($isAll ? '' : ' where prices are known');
    }

    /** @return int|null when this person looked before; null the first time */
    private function look(User $user): ?int
    {
        $now = Clock::microseconds();
        $row = DB::table('overview_visits')->where('user_id', $user->id)->first();
        if ($row === null) {
            DB::table('overview_visits')->insertOrIgnore(['user_id' => $user->id, 'before_us' => 0, 'last_us' => $now]);

            return null;
        }
        $before = $now - $row->last_us > self::ONE_LOOK_US ? (int) $row->last_us : (int) $row->before_us;
        DB::table('overview_visits')
            ->where('user_id', $user->id)
            ->update(['before_us' => $before, 'last_us' => $now]);

        return $before === 0 ? null : $before;
    }
}
