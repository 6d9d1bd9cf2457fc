<?php

declare(strict_types=1);

namespace App\Access\Http;

use App\Access\Application\Draft;
use App\Access\Application\PolicyStore;
use App\Access\Http\Requests\DecideCampaignItemRequest;
use App\Access\Http\Requests\StartCampaignRequest;
use App\Access\Models\Campaign;
use App\Access\Models\CampaignItem;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Export;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Subject;
use Fulcrion\Core\Text\Parts;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Symfony\Component\HttpFoundation\StreamedResponse;

/**
 * Going through grants one by one by a day: each is certified or revoked, and it is kept who did so and why.
 */
final readonly class CampaignController
{
    public function __construct(private PolicyStore $store, private Draft $draft, private Ledger $ledger)
    {
    }

    public function index(): View
    {
        return view('access.campaigns', ['campaigns' => Campaign::query()->with('items')->orderByDesc('id')->get()]);
    }

    public function store(StartCampaignRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        $below = Parts::first(strtolower(trim((string) ($data['below'] ?? ''))), ObjectPath::ESTATE);
        $items = [];
        foreach ([Kind::Grants, Kind::Scopes] as $kind) {
            foreach ($this->store->published()->all($kind) as $item) {
                $subjects = [...$item->texts('to'), ...$item->texts('for')];
                $person = array_filter($subjects, static fn (string $one): bool => str_starts_with($one, 'person:')) !== [];
                $inside = $kind === Kind::Scopes ? $below === ObjectPath::ESTATE : ObjectPath::within($item->text('on'), $below);
                if ($inside && ($data['whom'] === 'all' || ($data['whom'] === 'people') === $person)) {
                    $items[] = ['kind' => $kind->value, 'name' => $item->name, 'described' => self::describe($item), 'state' => 'open'];
                }
            }
        }
        if ($items === []) {
            return back()
                ->withInput()
                ->withErrors(['below' => 'No grant or value scope stands there. Nothing was begun.']);
        }
        $campaign = Campaign::query()->create([
            'title' => $data['title'],
            'due' => $data['due'],
            'made_by' => $user->name,
            'made_us' => Clock::microseconds(),
        ]);
        $campaign->items()->createMany($items);
        $this->ledger->record($user, 'began a review of grants', $data['title'], [
            'items' => count($items),
            'due' => $data['due'],
        ]);

        return redirect(address('campaign.show', $campaign->id));
    }

    private static function describe(Item $item): string
    {
        return $item->kind === Kind::Grants
            ? implode(', ', array_map(Subject::show(...), $item->texts('to'))).
                    ($item->text('effect') === 'deny' ? ' may not ' : ' may ').
                    implode(', ', $item->texts('privileges')).
                    " on {$item->text('on')}".
                    ($item->text('reason') === '' ? '' : ": {$item->text('reason')}")
            : implode(', ', array_map(Subject::show(...), $item->texts('for'))).
                    " may see of {$item->text('dimension')} ".
                    ($item->flag('everything')
                        ? 'all values'
                        : implode(', ', [
                            ...$item->texts('values'),
                            ...$item->texts('ranges'),
                            ...$item->texts('patterns'),
                            ...$item->texts('branches'),
                        ])).
                    " in {$item->text('level')}";
    }

    public function show(Campaign $campaign): View
    {
        return view('access.campaign', ['campaign' => $campaign->load('items'), 'today' => gmdate('Y-m-d', Clock::seconds())]);
    }

    public function decide(DecideCampaignItemRequest $request, #[CurrentUser] User $user, Campaign $campaign): RedirectResponse
    {
        $data = $request->validated();
        abort_if($campaign->ended_us !== null, 409, 'This review has ended.');
        $count = 0;
        foreach ($campaign->items()->whereIn('id', $data['items'])->where('state', 'open')->get() as $item) {
            assert($item instanceof CampaignItem);
            if ($data['answer'] === 'revoked') {
                $this->draft->remove(Kind::from($item->kind), $item->name, $user);
            }
            $item->update([
                'state' => $data['answer'],
                'decided_by' => $user->name,
                'decided_us' => Clock::microseconds(),
                'note' => $data['note'] ?? null,
            ]);
            $this->ledger->record(
                $user,
                $data['answer'] === 'certified' ? 'certified access' : 'revoked access',
                "{$item->kind} {$item->name}",
                ['review' => $campaign->title, 'note' => $data['note'] ?? null],
            );
            $count++;
        }

        return redirect(address('campaign.show', $campaign->id))->with(
            'done',
            $data['answer'] === 'certified'
                ? "{$count} certified."
                : "{$count} revoked: they are taken out in the draft, and end when it is published.",
        );
    }

    public function end(#[CurrentUser] User $user, Campaign $campaign): RedirectResponse
    {
        $campaign->update(['ended_us' => Clock::microseconds()]);
        $this->ledger->record($user, 'ended a review of grants', $campaign->title, [
            'open' => $campaign->items()->where('state', 'open')->count(),
        ]);

        return redirect(address('campaign.show', $campaign->id))->with('done', 'The review has ended; its record stays.');
    }

    public function export(Campaign $campaign): StreamedResponse
    {
        return Export::table(
            'csv',
            "review-{$campaign->id}",
            $campaign
                ->items()
                ->get()
                ->map(
                    static fn (CampaignItem $item): array => [
                        'kind' => $item->kind,
                        'name' => $item->name,
                        'access' => $item->described,
                        'state' => $item->state,
                        'decided_by' => $item->decided_by,
                        'decided_at' => $item->decided_us === null ? null : gmdate('c', intdiv($item->decided_us, 1_000_000)),
                        'note' => $item->note,
                    ],
                )
                ->all(),
        );
    }
}
