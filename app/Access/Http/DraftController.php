<?php

declare(strict_types=1);

namespace App\Access\Http;

use App\Access\Application\AccessAudit;
use App\Access\Application\AccessHistory;
use App\Access\Application\Draft;
use App\Access\Application\PolicyStore;
use App\Access\Application\Publisher;
use App\Access\Application\Trials;
use App\Access\Http\Requests\DiscardDraftRequest;
use App\Access\Http\Requests\PublishDraftRequest;
use App\Ledger\Changes\Refused;
use App\Platform\Models\User;
use Fulcrion\Core\Access\Change\BlastRadius;
use Fulcrion\Core\Access\Change\Replay;
use Fulcrion\Core\Access\Policy\Kind;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;

/**
 * What is about to change, for whom, and what would become of statements that are really run.
 */
final readonly class DraftController
{
    public function __construct(private PolicyStore $store, private Draft $draft, private Publisher $publisher)
    {
    }

    public function show(): View
    {
        $changes = $this->store->published()->changesTo($this->draft->document());

        return view('access.draft', [
            'changes' => $changes,
            'editors' => $this->draft->editors(),
            'problems' => $changes === [] ? [] : $this->draft->problems(),
            'warnings' => $this->draft->warnings(),
            'number' => $this->store->number(),
            'digest' => $this->publisher->digest(),
        ]);
    }

    public function radius(Trials $trials): View
    {
        [$before, $after] = [$this->store->compile($this->store->published()), $this->store->compile($this->draft->document())];
        $shifts = (new BlastRadius($before, $after))->shifts();

        return view('access.draft-radius', ['shifts' => $shifts, 'shares' => $trials->shares($shifts)]);
    }

    public function replay(AccessHistory $history): View
    {
        [$before, $after] = [$this->store->compile($this->store->published()), $this->store->compile($this->draft->document())];

        return view('access.draft-replay', [
            'replay' => (new Replay($before, $after))->run($history->asked()),
            'days' => AccessHistory::DAYS,
        ]);
    }

    public function discard(DiscardDraftRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        $kind = Kind::tryFrom((string) ($data['kind'] ?? ''));
        $this->draft->discard($kind, $data['name'] ?? null, $user);

        return redirect(address('draft.show'))->with(
            'done',
            $kind === null ? 'The draft is empty again.' : "The edit of {$kind->one()} {$data['name']} is discarded.",
        );
    }

    public function publish(PublishDraftRequest $request, #[CurrentUser] User $user, AccessAudit $audit): RedirectResponse
    {
        $data = $request->validated();
        try {
            $version = $this->publisher->publish(trim($data['comment']), $user, $data['digest']);
        } catch (Refused $refused) {
            return redirect(address('draft.show'))->withInput()->with('failed', $refused->getMessage());
        }
        $found = $audit->run();

        return redirect(address('change.show', $version->change_id))->with(
            'done',
            "Version {$version->number} is in force. ".
                ($found['solved'] > 0 ? "{$found['solved']} findings are solved by it." : 'The findings were looked through again.'),
        );
    }
}
