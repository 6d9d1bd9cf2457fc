<?php

declare(strict_types=1);

namespace App\Cost\Http;

use App\Cost\Application\BillFindings;
use App\Cost\Application\BillPage;
use App\Cost\Application\Bills;
use App\Cost\Application\FocusFile;
use App\Cost\Application\Prices;
use App\Cost\Http\Requests\MatchResourceRequest;
use App\Cost\Http\Requests\ReadBillRequest;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Export;
use App\Telemetry\Usage\UsageLimits;
use App\Telemetry\Usage\UsageScope;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Bill\BillError;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\UploadedFile;
use stdClass;
use Symfony\Component\HttpFoundation\StreamedResponse;

/**
 * Bills of providers, held against what was computed.
 */
final readonly class BillController
{
    public function __construct(private Bills $bills, private Prices $prices, private Ledger $ledger, private BillFindings $findings)
    {
    }

    public function index(#[CurrentUser] User $user): View
    {
        $this->refuseLimited($user);

        return view('cost.bills', ['bills' => array_map(
            fn (stdClass $bill): BillPage => BillPage::of($bill, $this->bills, $this->prices),
            $this->bills->all(),
        )]);
    }

    public function show(#[CurrentUser] User $user, int $bill): View
    {
        return view('cost.bill', [
            'page' => $this->page($user, $bill),
            'clusters' => Cluster::query()->orderBy('name')->get(['slug', 'name']),
        ]);
    }

    public function export(#[CurrentUser] User $user, int $bill, string $format): StreamedResponse
    {
        return Export::table($format, "bill-{$bill}", $this->page($user, $bill)->table());
    }

    public function read(ReadBillRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        $file = $request->file('file');
        abort_unless($file instanceof UploadedFile, 422);
        try {
            $id = $this->bills->read(
                (string) $file->get(),
                $file->getClientOriginalName(),
                $user->name,
                isset($data['rate']) ? BigDecimal::of($data['rate']) : null,
                $data['rate_on'] ?? null,
                (bool) ($data['in_place'] ?? false),
            );
        } catch (BillError $error) {
            return back()->withInput()->withErrors(['file' => $error->getMessage()]);
        }
        $this->ledger->record($user, 'read a bill', $file->getClientOriginalName());
        $this->findings->report();

        return redirect(address('bill.show', $id))->with('done', 'The bill was read.');
    }

    public function match(MatchResourceRequest $request, #[CurrentUser] User $user, int $bill): RedirectResponse
    {
        $data = $request->validated();
        $cluster = Cluster::query()->where('slug', $data['cluster'])->firstOrFail();
        $resource = (string) ($data['resource'] ?? '');
        abort_unless(in_array($resource, $this->page($user, $bill)->unknown(), true), 404);
        $this->bills->say($resource, $cluster);
        $this->ledger->record($user, 'said which cluster a resource of a bill is', $cluster->name, ['resource' => $resource]);
        $this->findings->report();

        return redirect(address('bill.show', $bill))->with(
            'done',
            "{$resource} is {$cluster->name}, in this and in all other bills.",
        );
    }

    public function remove(#[CurrentUser] User $user, int $bill): RedirectResponse
    {
        $known = $this->bills->find($bill) ?? abort(404);
        $this->bills->remove($bill);
        $this->ledger->record($user, 'removed a bill', (string) $known->file_name);
        $this->findings->report();

        return redirect(address('bill.index'))->with('done', 'The bill was removed. It can be read again from its file.');
    }

    /** Our own costs in the open format. */
    public function focus(Request $request, #[CurrentUser] User $user, string $format, FocusFile $file): StreamedResponse
    {
        $this->refuseLimited($user);
        $now = Clock::seconds();
        $rows = $file->rows(UsageScope::of($request, $now), $now);

        return $format === 'csv' ? Export::table('csv', 'cost-focus', $rows) : response()->streamDownload(
            static fn () => print FocusFile::parquet($rows),
            'cost-focus.parquet',
            ['Content-Type' => 'application/vnd.apache.parquet'],
        );
    }

    private function page(User $user, int $id): BillPage
    {
        $this->refuseLimited($user);

        return BillPage::of($this->bills->find($id) ?? abort(404), $this->bills, $this->prices);
    }

    /** A bill is of whole clusters. */
    private function refuseLimited(User $user): void
    {
        abort_if(UsageLimits::of($user) !== null, 403, 'Bills are of whole clusters; you see some teams only.');
    }
}
