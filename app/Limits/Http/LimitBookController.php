<?php

declare(strict_types=1);

namespace App\Limits\Http;

use App\Estate\Pricing\MoneyRates;
use App\Ledger\Ledger;
use App\Ledger\Models\Subscription;
use App\Limits\Application\KeptLimit;
use App\Limits\Application\LimitBook;
use App\Limits\Application\LimitCounters;
use App\Limits\Application\LimitFacts;
use App\Limits\Application\LimitNames;
use App\Limits\Application\LimitPage;
use App\Limits\Application\LimitPast;
use App\Limits\Application\LimitRow;
use App\Limits\Application\LimitStair;
use App\Limits\Application\LimitState;
use App\Limits\Charts\LimitFigure;
use App\Limits\Charts\LimitsFigure;
use App\Limits\Http\Requests\ChangeLimitRequest;
use App\Limits\Http\Requests\LiftLimitRequest;
use App\Limits\Http\Requests\SetLimitRequest;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\MomentStyle;
use App\Telemetry\Usage\UsageLimits;
use Fulcrion\Core\Limits\Limit;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\ScopeKind;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

/**
 * Where use stops: limits are set, tried on the past, switched on, lifted.
 */
final readonly class LimitBookController
{
    public function __construct(
        private LimitBook $book,
        private LimitCounters $counters,
        private LimitFacts $facts,
        private Ledger $ledger,
        private Calendar $calendar,
    ) {
    }

    public function index(#[CurrentUser] User $user, LimitNames $names): View
    {
        $rows = array_map(
            fn (KeptLimit $one): LimitRow => LimitRow::of($one, $this->counters, $this->calendar, Clock::seconds()),
            $this->book->all(UsageLimits::of($user)),
        );

        $sentence = LimitRow::sentence($rows);

        return view('limits.index', [
            'rows' => $rows,
            'sentence' => $sentence,
            'figure' => LimitsFigure::draw($rows, $sentence),
            'names' => $user->can('limit') ? $names->all() : [],
            'webhooks' => self::webhooks(),
        ]);
    }

    public function show(Request $request, #[CurrentUser] User $user, int $limit): View
    {
        $kept = $this->seen($limit, $user);
        $now = Clock::seconds();

        $page = LimitPage::of($kept, (string) $request->string('from'), $this->counters, $this->facts, $this->calendar, $now);
        $past = LimitPast::of($kept, $this->facts, $this->calendar, $now);

        return view('limits.show', [
            'page' => $page,
            'figure' => LimitFigure::draw($page->stair, $page->sentence()),
            'past' => $past,
            'pastFigure' => LimitFigure::draw(LimitStair::past($past, $this->calendar, $now), $past->sentence()),
            'known' => DB::table('statements')->whereIn('fingerprint', array_column($page->refusals, 'fingerprint'))
                ->pluck('id', 'fingerprint')->all(),
            'today' => $this->calendar->day($now),
            'webhooks' => self::webhooks(),
        ]);
    }

    public function store(SetLimitRequest $request, #[CurrentUser] User $user, MoneyRates $rates): RedirectResponse
    {
        $data = $request->validated();
        $measure = LimitMeasure::from($data['measure']);
        [$kind, $name] = SetLimitRequest::scope($data['of']);
        assert($kind !== null);
        $limit = new Limit(
            $measure,
            $kind,
            $name,
            LimitPeriod::from($data['period']),
            ChangeLimitRequest::amount($measure, $data['amount']),
            $request->thresholds(),
        );
        $id = $this->book->add(
            $limit,
            $measure === LimitMeasure::Cost ? $rates->currency() : '',
            $data['recipient'] ?? null,
            isset($data['webhook']) ? (int) $data['webhook'] : null,
            $data['ask'] ?? '',
            $user->name,
        );
        $this->record($user, 'set a limit', $id);

        return redirect(address('limit.show', $id))->with('done', 'It is not in force yet. Look at what it would have done, then switch '
            .'it on.');
    }

    public function change(ChangeLimitRequest $request, #[CurrentUser] User $user, int $limit): RedirectResponse
    {
        $kept = $this->seen($limit, $user);
        $data = $request->validated();
        $this->book->change(
            $limit,
            new Limit(
                $kept->limit->measure,
                $kept->limit->kind,
                $kept->limit->name,
                $kept->limit->period,
                ChangeLimitRequest::amount($kept->limit->measure, $data['amount']),
                $request->thresholds(),
            ),
            $data['recipient'] ?? null,
            isset($data['webhook']) ? (int) $data['webhook'] : null,
            $data['ask'] ?? '',
        );
        $this->record($user, 'changed a limit', $limit);

        return redirect(address('limit.show', $limit))->with('done', 'Changed. What was used so far stays counted.');
    }

    /** On, and off again. */
    public function switch(#[CurrentUser] User $user, int $limit): RedirectResponse
    {
        $kept = $this->seen($limit, $user);
        $isOn = $kept->state !== LimitState::On;
        $this->book->switch($limit, $isOn ? LimitState::On : LimitState::Off);
        if ($isOn && $kept->limit->period !== LimitPeriod::Statement) {
            $this->counters->sync($kept, Clock::seconds());
        }
        $this->record($user, $isOn ? 'switched a limit on' : 'switched a limit off', $limit);

        return redirect(address('limit.show', $limit))->with('done', $isOn ? 'It is in force.' : 'It is switched off: nothing is held.');
    }

    public function remove(#[CurrentUser] User $user, int $limit): RedirectResponse
    {
        $kept = $this->seen($limit, $user);
        $this->record($user, 'removed a limit', $limit);
        $this->book->remove($limit);

        return redirect(address('limit.index'))->with('done', "The limit of {$kept->whose()} is removed.");
    }

    public function lift(LiftLimitRequest $request, #[CurrentUser] User $user, int $limit): RedirectResponse
    {
        $this->seen($limit, $user);
        $now = Clock::microseconds();
        $data = $request->validated();
        $until = LiftLimitRequest::until($data['until'], $now, $user->zone());
        if ($until === null || $until <= $now) {
            return redirect(address('limit.show', $limit))->withErrors(['until' => 'That is over already. Say how long, as 4 h.'])
                ->withInput();
        }
        $this->book->lift($limit, $until, trim($data['reason']), $user->name);
        $this->record($user, 'lifted a limit', $limit, ['until' => gmdate('Y-m-d H:i:s', intdiv($until, 1_000_000)),
            'reason' => trim($data['reason'])]);

        return redirect(address('limit.show', $limit))->with('done', 'Nothing is held until '.moment($until, MomentStyle::Minute).'.');
    }

    public function endLift(#[CurrentUser] User $user, int $limit): RedirectResponse
    {
        $this->seen($limit, $user);
        $this->book->endLift($limit);
        $this->record($user, 'set a lifted limit again', $limit);

        return redirect(address('limit.show', $limit))->with('done', 'It holds again.');
    }

    private function seen(int $id, User $user): KeptLimit
    {
        $limit = $this->book->find($id);
        $teams = UsageLimits::of($user);
        abort_if($limit === null, 404);
        abort_if($teams !== null && ($limit->limit->kind !== ScopeKind::Team || ! in_array($limit->limit->name, $teams, true)), 403);

        return $limit;
    }

    /**
     * @param  array<string, mixed>  $more
     */
    private function record(User $user, string $what, int $id, array $more = []): void
    {
        $limit = $this->book->find($id);
        $this->ledger->record($user, $what, $limit === null ? (string) $id : $limit->title(), ['limit' => $id, ...$more,
            'amount' => $limit?->limit->amount]);
    }

    /**
     * @return array<int, string> where they lead, without what may be a secret, by number
     */
    private static function webhooks(): array
    {
        $webhooks = [];
        foreach (Subscription::query()->where('kind', 'webhook')->get() as $one) {
            $webhooks[$one->id] = $one->shown();
        }

        return $webhooks;
    }
}
