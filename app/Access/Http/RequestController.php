<?php

declare(strict_types=1);

namespace App\Access\Http;

use App\Access\Application\Decisions;
use App\Access\Application\Draft;
use App\Access\Application\PolicyStore;
use App\Access\Http\Requests\AskForAccessRequest;
use App\Access\Http\Requests\DecideAccessRequest;
use App\Access\Models\AccessRequest;
use App\Ledger\Ledger;
use App\Ledger\Notifications\Notices;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Privilege;
use Fulcrion\Core\Access\Policy\Subject;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/**
 * Asking for access, and answering: the owner of what is asked for decides, or a steward.
 */
final readonly class RequestController
{
    public function __construct(private PolicyStore $store, private Draft $draft, private Ledger $ledger)
    {
    }

    public function index(Request $request, #[CurrentUser] User $user): View
    {
        $policy = $this->store->compile($this->store->published());
        $subject = Decisions::subjectOf($user);
        /** @var \Illuminate\Support\Collection<int, AccessRequest> $all */
        $all = AccessRequest::query()->orderByRaw("state = 'open' DESC")->orderByDesc('id')->limit(300)->get();
        $shown = $all
            ->filter(fn (AccessRequest $ask): bool => $ask->subject === $subject || $this->mayDecide($policy, $user, $ask))
            ->values();

        return view('access.requests', [
            'requests' => $shown,
            'deciding' => $shown
                ->filter(fn (AccessRequest $ask): bool => $ask->state === 'open' && $this->mayDecide($policy, $user, $ask))
                ->pluck('id')
                ->all(),
            'subject' => $subject,
            'object' => $request->query->getString('object'),
            'tables' => array_map(strval(...), array_keys($policy->catalog->tables)),
        ]);
    }

    public function store(AskForAccessRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        $policy = $this->store->compile($this->store->published());
        $object = strtolower(trim($data['object']));
        $known = str_starts_with($object, 'product:')
            ? $policy->document->find(Kind::Products, substr(trim($data['object']), 8)) !== null
            : $policy->catalog->table($object) !== null;
        if (! $known) {
            return back()
                ->withInput()
                ->withErrors(['object' => "There is no {$data['object']}. Write cluster.schema.table, as fernhill.field.harvest_pick."]);
        }
        if ($user->policy_person === null) {
            return back()
                ->withInput()
                ->withErrors([
                    'object' => 'Your account is bound to nobody in the policy yet, so nothing can be given to you. Ask an owner to '
                        .'bind it on the page People.',
                ]);
        }
        $subject = Decisions::subjectOf($user);
        $object = str_starts_with($object, 'product:') ? trim($data['object']) : $object;
        if (AccessRequest::query()->where('subject', $subject)->where('object', $object)->where('state', 'open')->exists()) {
            return redirect(address('request.index'))->with('done', 'You have asked for this already; it waits for an answer.');
        }
        $ask = AccessRequest::query()->create([
            'asked_us' => Clock::microseconds(),
            'asker_id' => $user->id,
            'asked_by' => $user->name,
            'subject' => $subject,
            'object' => $object,
            'reason' => trim($data['reason']),
            'until' => $data['until'] ?? null,
            'state' => 'open',
        ]);
        $this->ledger->record($user, 'asked for access', $object, ['reason' => $ask->reason, 'until' => $ask->until]);

        return redirect(address('request.index'))->with(
            'done',
            'Asked. '.ucfirst(Subject::show((string) $this->owner($policy, $ask))).' or a steward decides; the answer stands here.',
        );
    }

    private function owner(Policy $policy, AccessRequest $ask): ?string
    {
        return str_starts_with($ask->object, 'product:')
            ? $policy->document->find(Kind::Products, substr($ask->object, 8))?->text('owner')
            : $policy->ownerOf($ask->object);
    }

    private function mayDecide(Policy $policy, User $user, AccessRequest $ask): bool
    {
        $owner = $this->owner($policy, $ask);

        // Nobody answers what they asked for themselves.
        return $ask->subject !== Decisions::subjectOf($user) &&
            ($user->can('guard') || ($owner !== null && isset($policy->reader(Decisions::subjectOf($user))->subjects[$owner])));
    }

    public function decide(DecideAccessRequest $request, #[CurrentUser] User $user, AccessRequest $ask, Notices $notices): RedirectResponse
    {
        $policy = $this->store->compile($this->store->published());
        abort_unless(
            $this->mayDecide($policy, $user, $ask),
            403,
            'The owner of what is asked for decides, or a steward; and nobody on a request of their own.',
        );
        $data = $request->validated();
        abort_if($ask->state !== 'open', 409, 'This was answered already.');
        if ($data['answer'] === 'approved') {
            foreach ($this->grants($policy, $ask) as $grant) {
                $this->draft->put($grant, $user);
            }
        }
        $ask->update([
            'state' => $data['answer'],
            'decided_by' => $user->name,
            'decided_us' => Clock::microseconds(),
            'answer' => trim((string) ($data['words'] ?? '')),
        ]);
        $this->ledger->record($user, $data['answer'] === 'approved' ? 'approved access' : 'declined access', $ask->object, [
            'for' => $ask->subject,
            'words' => $ask->answer,
        ]);

        $asker = User::query()->find($ask->asker_id);
        if ($asker instanceof User) {
            $notices->toPerson(
                $asker->email,
                "Your request for {$ask->object} was {$ask->state}",
                "{$user->name} {$ask->state} your request for {$ask->object}.".
                    ($ask->answer === '' ? '' : "\n\n{$ask->answer}").
                    ($data['answer'] === 'approved' ? "\n\nIt takes effect when a steward publishes the draft." : ''),
            );
        }

        return redirect(address('request.index'))->with(
            'done',
            $data['answer'] === 'approved'
                ? 'Approved. The grants are in the draft and take effect when a steward publishes it.'
                : 'Declined, with your words.',
        );
    }

    /**
     * @return list<Item>
     */
    private function grants(Policy $policy, AccessRequest $ask): array
    {
        $paths = str_starts_with($ask->object, 'product:')
            ? $policy->document->find(Kind::Products, substr($ask->object, 8))?->texts('views') ?? []
            : [$ask->object];
        $reader = $policy->reader($ask->subject);
        $grants = [];
        foreach ($paths as $path) {
            foreach ([[Privilege::Use, (string) ObjectPath::parent($path)], [Privilege::Select, $path]] as [$privilege, $on]) {
                $item = $reader->can($privilege, $on)
                    ? null
                    : Item::of(Kind::Grants, mb_strcut("request {$ask->id}: {$privilege->value} {$on}", 0, 190), [
                        'effect' => 'allow',
                        'privileges' => [$privilege->value],
                        'on' => $on,
                        'to' => [$ask->subject],
                        'until' => $ask->until ?? '',
                        'reason' => mb_strcut("request {$ask->id}: {$ask->reason}", 0, 300),
                    ]);
                if ($item instanceof Item) {
                    $grants[] = $item;
                }
            }
        }

        return $grants;
    }
}
