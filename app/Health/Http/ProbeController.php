<?php

declare(strict_types=1);

namespace App\Health\Http;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Health\Http\Requests\SetProbeRequest;
use App\Health\Probes\ProbeBook;
use App\Health\Probes\ProbePages;
use App\Health\Probes\ProbeRunner;
use App\Platform\Models\User;
use App\Platform\Support\AskedMoment;
use App\Platform\Support\Clock;
use App\Platform\Support\Journal;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/**
 * Is it the system? And the probe that tells.
 */
final readonly class ProbeController
{
    private const MOST_LETTERS = 200;

    public function __construct(private ProbeBook $probes, private Journal $journal)
    {
    }

    public function show(Request $request, ProbePages $pages, #[CurrentUser] User $user): View
    {
        $clusters = Cluster::query()->orderBy('name')->get();
        $cluster = $clusters->firstWhere('slug', $request->query('cluster')) ?? $clusters->firstWhere('connector', 'practice')
            ?? $clusters->first();
        $text = static function (string $name) use ($request): string {
            $typed = $request->query($name);

            return is_string($typed) ? mb_substr(trim($typed), 0, self::MOST_LETTERS) : '';
        };
        $asked = AskedMoment::of($request, $user->zone());
        $statement = preg_match('~^[0-9a-f]{32}$~', $text('statement')) === 1 ? $text('statement') : null;

        return view('health.system', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'at' => $asked->text,
            'statement' => $statement,
            'complaint' => $asked->complaint,
            'zone' => $user->zone(),
            'page' => $cluster === null ? null : $pages->of(
                $cluster,
                $asked->at,
                $statement,
                $text('account') === '' ? null : $text('account'),
                Clock::seconds(),
                $user->zone(),
            ),
            'account' => $text('account'),
        ]);
    }

    public function set(SetProbeRequest $request, ProbeRunner $runner, #[CurrentUser] User $user): RedirectResponse
    {
        $cluster = Cluster::query()->where('slug', $request->validated('cluster'))->firstOrFail();
        [$sql, $schema] = [(string) $request->validated('statement'), (string) ($request->validated('schema') ?? '')];
        try {
            $run = $runner->once($cluster, $user, $sql, $schema);
        } catch (SourceError $error) {
            return back()->withInput()->withErrors(['statement' => $error->getMessage()]);
        }
        $probe = $this->probes->set($cluster, $user, $sql, $schema, 60 * (int) $request->validated('minutes'));
        $this->probes->add($probe, [$run]);
        $this->journal->record($user, 'set a probe', $cluster->name, ['cluster' => $cluster->slug, 'every minutes' =>
            (int) $request->validated('minutes')]);

        return redirect()->route('system.show', ['cluster' => $cluster->slug])
            ->with('done', 'The probe is set. Its first run took '.Quantity::duration((float) $run->tookUs).'.');
    }

    public function switch(Request $request, string $slug, #[CurrentUser] User $user): RedirectResponse
    {
        $cluster = Cluster::query()->where('slug', $slug)->firstOrFail();
        $probe = $this->probes->of($cluster) ?? abort(404);
        $isOn = $request->boolean('on');
        $this->probes->switch($probe, $isOn);
        $act = $isOn ? 'switched a probe on' : 'switched a probe off';
        $this->journal->record($user, $act, $cluster->name, ['cluster' => $slug]);

        return redirect()->route('system.show', ['cluster' => $slug])
            ->with('done', $isOn ? 'The probe runs again.' : 'The probe is off.');
    }
}
