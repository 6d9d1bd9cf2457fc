<?php

declare(strict_types=1);

namespace App\Access\Http;

use App\Access\Application\Decisions;
use App\Access\Application\PolicyStore;
use App\Access\Models\DecisionRecord;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/**
 * Who asked what and was told what. Stewards see all of it, everybody else what is their own.
 */
final readonly class DecisionController
{
    public function __construct(private PolicyStore $store)
    {
    }

    public function index(Request $request, #[CurrentUser] User $user): View
    {
        $query = $this->filtered($request, $user);

        return view('access.decisions', [
            'decisions' => (clone $query)->with('cluster')->simplePaginate(50)->withQueryString(),
            'count' => $query->count(),
            'refused' => (clone $query)->where('outcome', 'refused')->count(),
            'clusters' => Cluster::query()->where('connector', 'practice')->orderBy('id')->get(),
            'all' => $user->can('guard'),
            'number' => $this->store->number(),
        ]);
    }

    public function show(#[CurrentUser] User $user, DecisionRecord $decision): View
    {
        // Of decisions on others nobody learns that they were made.
        abort_unless($user->can('guard') || $decision->subject === Decisions::subjectOf($user), 404);

        return view('access.decision', ['decision' => $decision->load('cluster'), 'steward' => $user->can('guard')]);
    }

    /** The full text of an error, with the values it speaks of, for those who decide on access. */
    public function reveal(#[CurrentUser] User $user, DecisionRecord $decision, Ledger $ledger): View
    {
        $ledger->record($user, 'revealed an error text', "decision {$decision->id}", [
            'cluster' => $decision->cluster->slug,
            'who' => $decision->subject,
        ]);

        return view('access.decision', ['decision' => $decision->load('cluster'), 'steward' => true, 'revealed' => true]);
    }

    public function export(Request $request, #[CurrentUser] User $user): StreamedResponse
    {
        $query = $this->filtered($request, $user);

        return response()->streamDownload(
            static function () use ($query): void {
                foreach ($query->with('cluster')->lazy(500) as $one) {
                    assert($one instanceof DecisionRecord);
                    echo json_encode(
                        [
                            'at' => gmdate('Y-m-d\TH:i:s', intdiv($one->at_us, 1_000_000)).'Z',
                            'id' => $one->id,
                            'cluster' => $one->cluster->slug,
                            'who' => $one->subject,
                            'asked_by' => $one->asked_by,
                            'source' => $one->source,
                            'policy' => $one->version,
                            'draft' => $one->draft,
                            'outcome' => $one->outcome,
                            'statement' => $one->statement,
                            'fingerprint' => $one->fingerprint,
                            'tables' => $one->tables,
                        ],
                        JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_INVALID_UTF8_SUBSTITUTE,
                    )."\n";
                }
            },
            'decisions.jsonl',
            ['Content-Type' => 'application/jsonl; charset=utf-8'],
        );
    }

    /**
     * @return Builder<DecisionRecord>
     */
    private function filtered(Request $request, User $user): Builder
    {
        $query = DecisionRecord::query();
        $query->orderByDesc('id');
        if (! $user->can('guard')) {
            $query->where('subject', Decisions::subjectOf($user));
        }
        foreach (['who' => 'subject', 'outcome' => 'outcome', 'source' => 'source'] as $field => $column) {
            $value = mb_substr($request->query->getString($field), 0, 190);
            if ($value !== '') {
                $field === 'who'
                    ? $query->where('subject', 'like', '%'.addcslashes($value, '%_\\').'%')
                    : $query->where($column, $value);
            }
        }
        $words = mb_substr($request->query->getString('words'), 0, 200);
        if ($words !== '') {
            $like = '%'.addcslashes($words, '%_\\').'%';
            $query->where(static fn (Builder $either) => $either->where('statement', 'like', $like)->orWhere('tables', 'like', $like));
        }
        $slug = $request->query->getString('cluster');
        if ($slug !== '') {
            $query->where('cluster_id', Cluster::query()->where('slug', $slug)->value('id') ?? 0);
        }

        return $query;
    }
}
