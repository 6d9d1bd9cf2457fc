<?php

declare(strict_types=1);

namespace App\Profiles\Http;

use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Profiles\Application\ProfilePage;
use App\Profiles\Application\TakeProfile;
use App\Profiles\Http\Requests\KeepProfileRequest;
use App\Profiles\Http\Requests\TakeProfileRequest;
use App\Profiles\Models\KeptProfile;
use Fulcrion\Core\Profiling\StackReader;
use Fulcrion\Core\Profiling\StackTree;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;

/**
 * Profiles: sent, taken, looked at and held against each other.
 */
final readonly class ProfileController
{
    private const LISTED = 100;

    private const LONGEST = 20_000;

    /** Bytes of a line of a profile; what is longer is read as several, which are no stacks. */
    private const LONGEST_LINE = 1_048_576;

    public function index(#[CurrentUser] User $user): View
    {
        return view('profiles.index', [
            'profiles' => KeptProfile::seenBy($user)->orderByDesc('id')->limit(self::LISTED)
                ->get(['id', 'cluster_id', 'name', 'kind', 'unit', 'total', 'state', 'error', 'progress', 'done_share', 'stop_asked',
                    'heartbeat_us', 'asked_us', 'asked_by', 'only_for']),
            'servers' => Cluster::query()->where('connector', 'mariadb')->orderByDesc('is_own')->orderBy('name')->get(),
            'engines' => Cluster::query()->where('connector', 'practice')->orderBy('id')->get(),
        ]);
    }

    public function show(Request $request, #[CurrentUser] User $user, ProfilePage $page, int $profile): View
    {
        $one = KeptProfile::seenBy($user)->findOrFail($profile);
        $others = KeptProfile::seenBy($user)->where('state', 'done')->whereKeyNot($one->id)->orderByDesc('id')->limit(self::LISTED)
            ->get(['id', 'name', 'asked_us']);
        $with = $request->query->getInt('with') > 0 ? KeptProfile::seenBy($user)->where('state', 'done')
            ->find($request->query->getInt('with')) : null;
        $text = static fn (string $name): string => mb_substr(trim($request->query->getString($name)), 0, self::LONGEST);

        return view('profiles.profile', [
            'profile' => $one,
            'others' => $others,
            'page' => $one->state === 'done' ? $page->of($one, $with, $text('at'), $text('search')) : null,
        ]);
    }

    public function keep(KeepProfileRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $reader = new StackReader($tree = new StackTree());
        $handle = fopen($request->stacksPath(), 'rb');
        while ($handle !== false && ($line = fgets($handle, self::LONGEST_LINE)) !== false) {
            $reader->line(mb_check_encoding($line, 'UTF-8') ? $line : mb_scrub($line));
        }
        $reader->end();
        if ($tree->root->total <= 0.0) {
            return redirect(address('profile.index'))->with('failed', 'Nothing was kept: the file holds no stack. '
                .implode(' ', array_slice($reader->complaints(), 0, 3)));
        }
        $profile = KeptProfile::query()->create(KeptProfile::kept($tree) + [
            'name' => (string) $request->validated('name'), 'kind' => 'file', 'unit' => 'samples', 'refused' => $reader->refused(),
            'state' => 'done',
            'asked_us' => Clock::microseconds(), 'asked_by' => $user->name, 'heartbeat_us' => Clock::microseconds(),
        ]);
        $done = redirect(address('profile.show', $profile->id));

        return $reader->refused() === 0 ? $done : $done->with('done', Quantity::count($reader->refused()).' lines were left out. '
            .$reader->complaints()[0]);
    }

    public function take(TakeProfileRequest $request, #[CurrentUser] User $user, Ledger $ledger): RedirectResponse
    {
        $data = $request->validated();
        $cluster = Cluster::query()->where('slug', $data['cluster'])->firstOrFail();
        $isServer = $cluster->connector === 'mariadb';
        $profile = KeptProfile::query()->create([
            'cluster_id' => $cluster->id, 'name' => (string) $data['name'], 'kind' => $isServer ? 'server' : 'statement', 'unit' => 'ms',
            'only_for' => $isServer ? null : $user->id, 'state' => 'waiting',
            'plan' => $isServer ? ['seconds' => (int) ($data['seconds'] ?? 5)] : ['sql' => (string) ($data['sql'] ?? ''), 'schema' => ''],
            'asked_us' => Clock::microseconds(), 'asked_by' => $user->name, 'heartbeat_us' => Clock::microseconds(),
        ]);
        $ledger->record($user, 'took a profile', $cluster->name, ['cluster' => $cluster->slug, 'profile' => $profile->id]);
        TakeProfile::dispatch($profile->id);

        return redirect(address('profile.show', $profile->id));
    }

    public function progress(#[CurrentUser] User $user, int $profile): View
    {
        return view('profiles.progress', ['run' => KeptProfile::seenBy($user)->findOrFail($profile)]);
    }

    public function stop(#[CurrentUser] User $user, int $profile): RedirectResponse
    {
        KeptProfile::seenBy($user)->findOrFail($profile)->askToStop();

        return redirect(address('profile.show', $profile));
    }

    public function file(#[CurrentUser] User $user, int $profile): Response
    {
        $one = KeptProfile::seenBy($user)->findOrFail($profile);

        return response($one->text()."\n", 200, ['Content-Type' => 'text/plain; charset=utf-8',
            'Content-Disposition' => "attachment; filename=\"profile-{$one->id}.folded\""]);
    }

    public function remove(#[CurrentUser] User $user, Ledger $ledger, int $profile): RedirectResponse
    {
        $one = KeptProfile::seenBy($user)->findOrFail($profile);
        abort_unless($one->mayBeRemovedBy($user), 403);
        $one->delete();
        $ledger->record($user, 'removed a profile', $one->name);

        return redirect(address('profile.index'))->with('done', 'The profile is removed.');
    }
}
