<?php

declare(strict_types=1);

namespace App\Loading\Http;

use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Loading\Application\BringFiles;
use App\Loading\Application\DeliveryBook;
use App\Loading\Application\LoadingFindings;
use App\Loading\Application\LoadingPage;
use App\Loading\Http\Requests\KeepDeliveryRequest;
use App\Loading\Http\Requests\SetLinkRequest;
use App\Loading\Http\Requests\TryLoadingRequest;
use App\Loading\Models\LoadTrial;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Fulcrion\Core\Loading\DeliveryLog;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Text\TypedRate;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/**
 * Deliveries: how they come, what bounds them, and a trial of what would be faster.
 */
final readonly class LoadingController
{
    public function __construct(private LoadingPage $page, private DeliveryBook $book, private LoadingFindings $findings)
    {
    }

    public function show(Request $request): View
    {
        $clusters = Cluster::productionFirst()->get();
        $cluster = Cluster::chosen($clusters, $request->query('cluster'));
        $name = $request->query('name');

        return view('loading.loading', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'page' => $cluster === null ? null : $this->page->of($cluster, is_string($name) ? $name : null),
        ]);
    }

    public function keep(KeepDeliveryRequest $request, string $slug): RedirectResponse
    {
        $cluster = Cluster::named($slug);
        $name = (string) $request->validated('name');
        $log = DeliveryLog::read($request->text());
        $measure = $this->book->keep($cluster, $name, $log->files);
        $this->findings->report($cluster, Clock::seconds());
        $back = self::back($cluster, $name);

        return $measure === null
            ? $back->with('failed', 'Nothing was kept: the file tells of no file that took any time. '.implode(' ', $log->complaints))
            : $back->with('done', Quantity::count($measure->files).' files were read.'
                .($log->complaints === [] ? '' : ' Left out: '.implode(' ', array_slice($log->complaints, 0, 5))));
    }

    public function link(SetLinkRequest $request, #[CurrentUser] User $user, Ledger $ledger, string $slug): RedirectResponse
    {
        $cluster = Cluster::named($slug);
        $name = (string) $request->validated('name');
        $this->book->setLink($cluster, $name, TypedRate::of((string) $request->validated('rate')), $user->name, Clock::microseconds());
        $ledger->record($user, 'said what a link lets through', "{$name}: {$request->validated('rate')}", ['cluster' => $cluster->slug]);
        $this->findings->report($cluster, Clock::seconds());

        return self::back($cluster, $name)->with('done', 'What the link lets through is kept.');
    }

    public function try(TryLoadingRequest $request, #[CurrentUser] User $user, Ledger $ledger, string $slug): RedirectResponse
    {
        $cluster = Cluster::named($slug);
        if (LoadTrial::isOneGoingOn()) {
            return self::back($cluster, null)->with('failed', 'A trial runs already; two at once would measure each other.');
        }
        if ($cluster->connector !== 'practice' && $request->plan()['to'] === '') {
            return self::back($cluster, null)
                ->with('failed', "{$cluster->name} takes no files from here: choose a folder they are brought to.");
        }
        $trial = LoadTrial::query()->create([
            'cluster_id' => $cluster->id, 'plan' => $request->plan(), 'state' => 'waiting', 'asked_us' => Clock::microseconds(),
            'asked_by' => $user->name, 'heartbeat_us' => Clock::microseconds(),
        ]);
        $ledger->record($user, 'tried loading in', "{$request->plan()['files']} files",
            ['cluster' => $cluster->slug, 'trial' => $trial->id]);
        BringFiles::dispatch($trial->id);

        return self::back($cluster, null);
    }

    public function trial(Request $request, LoadTrial $trial): View|RedirectResponse
    {
        return $request->hasHeader('HX-Request') ? view('loading.trial-progress', ['run' => $trial]) : self::back($trial->cluster, null);
    }

    public function stop(LoadTrial $trial): RedirectResponse
    {
        $trial->askToStop();

        return self::back($trial->cluster, null);
    }

    private static function back(Cluster $cluster, ?string $name): RedirectResponse
    {
        return redirect(address('loading.show').'?'.http_build_query(['cluster' => $cluster->slug, 'name' => $name]));
    }
}
