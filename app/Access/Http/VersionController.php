<?php

declare(strict_types=1);

namespace App\Access\Http;

use App\Access\Application\AccessAudit;
use App\Access\Application\Draft;
use App\Access\Application\PolicyStore;
use App\Access\Application\Publisher;
use App\Access\Http\Requests\RestoreVersionRequest;
use App\Access\Models\PolicyVersion;
use App\Ledger\Changes\Refused;
use App\Platform\Models\User;
use Fulcrion\Core\Access\Change\BlastRadius;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

final readonly class VersionController
{
    public function __construct(private PolicyStore $store)
    {
    }

    public function index(): View
    {
        return view('access.versions', [
            'versions' => PolicyVersion::query()->orderByDesc('number')->simplePaginate(50),
            'number' => $this->store->number(),
        ]);
    }

    public function compare(Request $request): View
    {
        $latest = $this->store->number();
        [$a, $b] = [(int) $request->query('a', (string) max(0, $latest - 1)), (int) $request->query('b', (string) $latest)];
        [$before, $after] = [$this->store->version($a) ?? abort(404), $this->store->version($b) ?? abort(404)];

        return view('access.compare', [
            'a' => $a,
            'b' => $b,
            'latest' => $latest,
            'changes' => $before->changesTo($after),
            'shifts' => (new BlastRadius($this->store->compile($before), $this->store->compile($after)))->shifts(),
        ]);
    }

    public function restore(
        RestoreVersionRequest $request,
        #[CurrentUser] User $user,
        int $number,
        Publisher $publisher,
        Draft $draft,
        AccessAudit $audit,
    ): RedirectResponse {
        $data = $request->validated();
        try {
            $version = $publisher->restore($number, $user, trim((string) ($data['comment'] ?? '')));
        } catch (Refused $refused) {
            return redirect(address('version.index'))->with('failed', $refused->getMessage());
        }
        $audit->run();

        return redirect(address('version.index'))->with(
            'done',
            "Version {$version->number} is in force, and says what version {$number} said. ".
                ($draft->isEmpty() ? '' : 'The draft is kept, as edits of it.'),
        );
    }
}
