<?php

declare(strict_types=1);

namespace App\Settings\Http;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Ledger\Models\Finding;
use App\Platform\Models\User;
use App\Platform\Support\AskedWindow;
use App\Platform\Support\Clock;
use App\Settings\Application\ProfileBook;
use App\Settings\Application\SettingChanges;
use App\Settings\Application\SettingFindings;
use App\Settings\Application\SettingsPage;
use App\Settings\Application\SettingsReader;
use App\Settings\Http\Requests\ProposeSettingRequest;
use App\Settings\Http\Requests\SaveProfileRequest;
use Fulcrion\Core\Time\WindowText;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use InvalidArgumentException;

/**
 * How hosts are set, how they should be, and what brings one to the other.
 */
final readonly class SettingController
{
    private const WINDOW = 'last 28 days';

    public function __construct(private SettingsPage $page, private ProfileBook $profiles)
    {
    }

    public function index(Request $request, #[CurrentUser] User $user): View
    {
        $clusters = Cluster::productionFirst()->get();
        $cluster = Cluster::chosen($clusters, $request->query('cluster'));
        $zone = $user->zone();
        $asked = AskedWindow::of($request, self::WINDOW, $zone);
        $at = $atComplaint = null;
        $then = trim($request->query->getString('at'));
        try {
            $at = $then === '' ? null : WindowText::parse($then, Clock::seconds(), $zone)->from;
        } catch (InvalidArgumentException $error) {
            $atComplaint = $error->getMessage();
        }
        $name = trim($request->query->getString('name'));

        return view('settings.index', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'zone' => $zone,
            'text' => $asked->text,
            'complaint' => trim("{$asked->complaint} {$atComplaint}"),
            'then' => $then,
            'at' => $at,
            'name' => $name,
            'page' => $cluster === null ? null : $this->page->of($cluster, $at, $asked->window->from, $asked->window->to, $name),
        ]);
    }

    public function profile(string $slug): View
    {
        $cluster = Cluster::named($slug);

        return view('settings.profile', [
            'cluster' => $cluster, 'text' => old('text', $this->profiles->text($cluster)), 'saved' => $this->profiles->saved($cluster),
        ]);
    }

    public function file(string $slug): Response
    {
        $cluster = Cluster::named($slug);

        return response($this->profiles->text($cluster), 200, [
            'Content-Type' => 'application/yaml; charset=utf-8',
            'Content-Disposition' => "attachment; filename=\"settings-{$cluster->slug}.yaml\"",
        ]);
    }

    public function save(
        SaveProfileRequest $request,
        #[CurrentUser] User $user,
        SettingFindings $findings,
        Ledger $ledger,
        string $slug,
    ): RedirectResponse {
        $cluster = Cluster::named($slug);
        $this->profiles->save($cluster, $request->text(), $user);
        $ledger->record($user, 'changed how hosts should be set', $cluster->name, ['cluster' => $cluster->slug]);
        $findings->report($cluster);

        return redirect(address('setting.index').'?'.http_build_query(['cluster' => $cluster->slug]))
            ->with('done', 'The profile is saved, and all hosts are held against it.');
    }

    public function forget(#[CurrentUser] User $user, SettingFindings $findings, Ledger $ledger, string $slug): RedirectResponse
    {
        $cluster = Cluster::named($slug);
        $this->profiles->forget($cluster);
        $ledger->record($user, 'went back to the profile that ships with Fulcrion', $cluster->name, ['cluster' => $cluster->slug]);
        $findings->report($cluster);

        return redirect(address('setting.profile', $cluster->slug))->with('done', 'The profile that ships with Fulcrion holds again.');
    }

    public function read(SettingsReader $reader, SettingFindings $findings, string $slug): RedirectResponse
    {
        $cluster = Cluster::named($slug);
        $back = redirect(address('setting.index').'?'.http_build_query(['cluster' => $cluster->slug]));
        try {
            $changed = $reader->read($cluster, Clock::seconds());
        } catch (SourceError $error) {
            return $back->with('failed', $error->getMessage());
        }
        $findings->report($cluster);

        return $back->with('done', $changed === null ? 'Hosts of this cluster are read by their agents, every hour and when these start.'
            : ($changed === 0 ? 'It was read again; nothing is otherwise.' : "It was read again; {$changed} settings are otherwise."));
    }

    public function propose(ProposeSettingRequest $request, #[CurrentUser] User $user, SettingChanges $changes,
        string $slug): RedirectResponse
    {
        $cluster = Cluster::named($slug);
        $host = (string) $request->validated('host');
        try {
            $finding = Finding::query()->where('cluster_id', $cluster->id)->where('source', SettingFindings::SOURCE)
                ->where('object', $host)->whereIn('state', ['open', 'accepted'])->first();
            $change = $changes->propose($cluster, $host, $request->validated('setting'), $finding, $user);
        } catch (SourceError $error) {
            return redirect(address('setting.index').'?'.http_build_query(['cluster' => $cluster->slug]))
                ->with('failed', $error->getMessage());
        }

        return redirect(address('change.show', $change->id));
    }
}
