<?php

declare(strict_types=1);

namespace App\Baseline\Http;

use App\Baseline\Application\BaselineBook;
use App\Baseline\Application\BaselinePage;
use App\Baseline\Http\Requests\MeasureRequest;
use App\Baseline\Models\BaselineRun;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\AskedWindow;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/**
 * What the hardware can do, and what is used of it.
 */
final readonly class BaselineController
{
    private const WINDOW = 'last 7 days';

    public function __construct(private BaselinePage $page, private BaselineBook $book)
    {
    }

    public function show(Request $request, #[CurrentUser] User $user): View
    {
        $clusters = Cluster::productionFirst()->get();
        $cluster = Cluster::chosen($clusters, $request->query('cluster'));
        $other = $clusters->firstWhere('slug', $request->query('other'));
        $zone = $user->zone();
        $asked = AskedWindow::of($request, self::WINDOW, $zone);

        return view('baseline.baseline', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'zone' => $zone,
            'text' => $asked->text,
            'complaint' => $asked->complaint,
            'page' => $cluster === null ? null : $this->page->of($cluster, $asked->window, $other instanceof Cluster ? $other : null),
        ]);
    }

    public function measure(MeasureRequest $request, #[CurrentUser] User $user, Ledger $ledger, string $slug): RedirectResponse
    {
        $cluster = Cluster::named($slug);
        $back = redirect(address('baseline.show').'?'.http_build_query(['cluster' => $cluster->slug]));
        $host = (string) $request->validated('host');
        try {
            $hosts = $this->book->hosts($cluster);
        } catch (SourceError $error) {
            return $back->with('failed', $error->getMessage());
        }
        $wanted = $host === '*' ? $hosts : array_intersect($hosts, [$host]);
        if ($wanted === []) {
            return $back->with('failed', "{$host} cannot be measured: it is no node, not this host, and has no agent.");
        }
        $asked = 0;
        foreach ($wanted as $one) {
            $asked += (int) ($this->book->ask($cluster, $one, $request->plan(), $user) !== null);
        }
        $ledger->record($user, 'asked to measure what hardware can do', $host === '*' ? $cluster->name : $host,
            ['cluster' => $cluster->slug]);

        return $asked === 0 ? $back->with('failed', 'It is being measured already.')
            : $back->with('done', $asked === 1 ? 'It is measured now, or when its agent comes by.' : "{$asked} hosts are measured.");
    }

    public function run(Request $request, BaselineRun $baseline): View|RedirectResponse
    {
        return $request->hasHeader('HX-Request') ? view('baseline.progress', ['run' => $baseline])
            : redirect(address('baseline.show').'?'.http_build_query(['cluster' => $baseline->cluster->slug]));
    }

    public function stop(BaselineRun $baseline): RedirectResponse
    {
        if (in_array($baseline->state, ['asked', 'sent'], true)) {
            // An agent that knows of it already ends on its own; what it sends counts no more.
            BaselineRun::query()->whereKey($baseline->id)->whereIn('state', ['asked', 'sent'])->update(['state' => 'stopped']);
        } else {
            $baseline->askToStop();
        }

        return redirect(address('baseline.show').'?'.http_build_query(['cluster' => $baseline->cluster->slug]));
    }
}
