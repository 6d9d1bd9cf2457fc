<?php

declare(strict_types=1);

namespace App\Ledger\Http;

use App\Ledger\Ledger;
use App\Ledger\Models\LedgerEntry;
use App\Platform\Support\Export;
use Illuminate\Contracts\View\View;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

final readonly class LedgerController
{
    public function index(Request $request): View
    {
        return view('ledger.index', [
            'entries' => $this->filtered($request)->orderByDesc('number')->simplePaginate(50)->withQueryString(),
            'acts' => LedgerEntry::query()->distinct()->orderBy('act')->pluck('act'),
            'count' => LedgerEntry::query()->count(),
        ]);
    }

    public function export(Request $request, string $format): StreamedResponse
    {
        $rows = (function () use ($request) {
            foreach ($this->filtered($request)->orderBy('number')->lazy(500) as $entry) {
                assert($entry instanceof LedgerEntry);
                yield $entry->getAttributes();
            }
        })();

        return Export::table($format, 'ledger', $rows);
    }

    public function verify(Ledger $ledger): RedirectResponse
    {
        $result = $ledger->verify();

        return redirect(address('ledger.index'))->with(
            $result['brokenAt'] === null ? 'done' : 'failed',
            $result['brokenAt'] === null
                ? "All {$result['entries']} entries fit the chain: none was changed, removed or put in."
                : "The chain breaks at entry {$result['brokenAt']}: it, or the one before it, was changed, removed or put in.",
        );
    }

    /**
     * @return Builder<LedgerEntry>
     */
    private function filtered(Request $request): Builder
    {
        $act = $request->query('act');
        $words = $request->query->getString('words');

        return LedgerEntry::query()
            ->when(is_string($act) && $act !== '', static fn (Builder $query) => $query->where('act', $act))
            ->when(
                $words !== '',
                static fn (Builder $query) => $query->where(
                    static fn (Builder $query) => $query
                        ->where('who', 'like', '%'.addcslashes($words, '%_\\').'%')
                        ->orWhere('object', 'like', '%'.addcslashes($words, '%_\\').'%'),
                ),
            );
    }
}
