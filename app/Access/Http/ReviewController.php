<?php

declare(strict_types=1);

namespace App\Access\Http;

use App\Access\Application\AccessAudit;
use App\Access\Application\Draft;
use App\Access\Http\Requests\FixRemarkRequest;
use App\Ledger\Models\Finding;
use App\Platform\Models\User;
use Fulcrion\Core\Access\Review\Review;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

final readonly class ReviewController
{
    public function __construct(private AccessAudit $audit, private Draft $draft)
    {
    }

    public function index(Request $request): View
    {
        $check = $request->query->getString('check');
        $findings = Finding::waiting()->where('source', AccessAudit::SOURCE)->with('cluster')->get();

        return view('access.review', [
            'findings' => $findings->groupBy('rule'),
            'count' => $findings->count(),
            'checks' => Review::CHECKS,
            'only' => isset(Review::CHECKS[$check]) ? $check : '',
        ]);
    }

    public function run(): RedirectResponse
    {
        $found = $this->audit->run(true);

        return redirect(address('review.index'))->with(
            'done',
            "Looked through: {$found['open']} findings, {$found['new']} new, {$found['solved']} solved.",
        );
    }

    /** Takes what would fix findings into the draft. */
    public function fix(FixRemarkRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        $current = $this->audit->current();
        $fixed = 0;
        $left = $put = $gone = [];
        foreach (Finding::query()->whereIn('id', $data['findings'])->where('source', AccessAudit::SOURCE)->get() as $finding) {
            $remark = $current["{$finding->rule} {$finding->object}"] ?? null;
            if ($remark === null || ($remark->put === [] && $remark->remove === [])) {
                $left[] = $finding->object;

                continue;
            }
            array_push($put, ...$remark->put);
            array_push($gone, ...$remark->remove);
            $fixed++;
        }
        $this->draft->take($put, $gone, $user);

        return redirect($fixed > 0 ? address('draft.show') : address('review.index'))->with(
            $fixed > 0 ? 'done' : 'failed',
            ($fixed === 0 ? 'Nothing was changed.' : "What fixes {$fixed} findings is in the draft.").
                ($left === []
                    ? ''
                    : ' A person has to decide on '.
                        implode(', ', array_slice($left, 0, 4)).
                        (count($left) > 4 ? ' and others' : '').
                        '.'),
        );
    }
}
