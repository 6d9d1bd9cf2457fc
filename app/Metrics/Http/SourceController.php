<?php

declare(strict_types=1);

namespace App\Metrics\Http;

use App\Estate\Models\Cluster;
use App\Metrics\Http\Requests\AddScrapeRequest;
use App\Metrics\Intake\Scrape;
use App\Metrics\Intake\Scraper;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Journal;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Support\Facades\DB;

/**
 * Who tells what hosts do.
 */
final readonly class SourceController
{
    public function __construct(private Scraper $scraper, private Journal $journal)
    {
    }

    public function index(): View
    {
        return view('metrics.sources', [
            'clusters' => Cluster::query()->orderBy('name')->get()->keyBy('id'),
            'sources' => DB::table('metric_sources')->orderBy('cluster_id')->orderBy('host')->get(),
            'scrapes' => $this->scraper->all(),
            'series' => DB::table('metric_series')->groupBy('cluster_id', 'host')->selectRaw('cluster_id, host, COUNT(*) AS series')
                ->get()->mapWithKeys(static fn ($row): array => ["{$row->cluster_id} {$row->host}" => (int) $row->series]),
            'now' => Clock::seconds(),
        ]);
    }

    public function add(AddScrapeRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $cluster = Cluster::query()->where('slug', $request->validated('cluster'))->firstOrFail();
        [$host, $address] = [(string) $request->validated('host'), (string) $request->validated('address')];
        $one = ['cluster_id' => $cluster->id, 'host' => $host, 'address' => $address];
        DB::table('metric_scrapes')->upsert(
            $one + ['every_seconds' => (int) $request->validated('seconds'), 'made_by' => $user->name],
            ['cluster_id', 'host', 'address'],
            ['every_seconds', 'made_by'],
        );
        $row = DB::table('metric_scrapes')->where($one)->first() ?? abort(500);
        $this->journal->record($user, 'added an address of metrics', $host, ['cluster' => $cluster->slug, 'address' => $address]);
        // The first values are on the screen at once, or it is said why not.
        $error = $this->scraper->ask(Scrape::read($row));

        return redirect()->route('source.index')->with($error === null ? 'done' : 'failed', $error === null
            ? "{$host} is read. Its first values are here." : "{$host} is added, and could not be read whole: {$error}");
    }

    public function remove(int $scrape, #[CurrentUser] User $user): RedirectResponse
    {
        $row = DB::table('metric_scrapes')->where('id', $scrape)->first() ?? abort(404);
        DB::table('metric_scrapes')->where('id', $scrape)->delete();
        $this->journal->record($user, 'removed an address of metrics', (string) $row->host, ['address' => (string) $row->address]);

        return redirect()->route('source.index')->with('done', "{$row->host} is not asked any more. What is known of it stays.");
    }
}
