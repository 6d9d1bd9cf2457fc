<?php

declare(strict_types=1);

namespace App\Cost\Http;

use App\Cost\Application\AccountFile;
use App\Cost\Application\TeamAccount;
use App\Cost\Application\TeamAccounts;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Telemetry\Usage\UsageLimits;
use App\Telemetry\Usage\UsageScope;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Illuminate\Http\Response;

/**
 * One team: its use, its cost, what changed and what would help.
 */
final readonly class TeamController
{
    private const DEFAULT = 'this month';

    public function __construct(private TeamAccounts $accounts)
    {
    }

    public function show(Request $request, #[CurrentUser] User $user): View
    {
        $teams = self::teams($user);
        [$text, $days, $complaint] = UsageScope::days($request, Clock::seconds(), self::DEFAULT);
        $account = $this->account($request, $user, $teams, $days);

        return view('cost.team', [
            'teams' => $teams,
            'account' => $account,
            'text' => $text,
            'complaint' => $complaint,
            'query' => $account === null ? [] : ['team' => $account->team, 'days' => $text, 'measure' => $account->measure()->value],
        ]);
    }

    public function file(Request $request, #[CurrentUser] User $user, AccountFile $files, string $document): Response
    {
        [, $days] = UsageScope::days($request, Clock::seconds(), self::DEFAULT);
        $account = $this->account($request, $user, self::teams($user), $days);
        abort_if($account === null, 404, 'No team has used anything yet.');

        return self::download(
            $document === 'pdf' ? $files->pdf($account) : $files->html($account),
            $document,
            AccountFile::name($account->team, $account->month(), $document),
        );
    }

    public static function download(string $content, string $document, string $name): Response
    {
        return response($content, 200, [
            'Content-Type' => $document === 'pdf' ? 'application/pdf' : 'text/html; charset=utf-8',
            'Content-Disposition' => "attachment; filename=\"{$name}\"",
        ]);
    }

    /**
     * @return list<string> those the person may see
     */
    private static function teams(User $user): array
    {
        $limits = UsageLimits::of($user);

        return $limits === null ? TeamAccounts::teams() : array_values(array_intersect(TeamAccounts::teams(), $limits));
    }

    /**
     * @param  list<string>  $teams
     */
    private function account(Request $request, User $user, array $teams, Days $days): ?TeamAccount
    {
        $team = $request->query('team');
        $team = is_string($team) && $team !== '' ? $team : $teams[0] ?? null;
        if ($team === null) {
            return null;
        }
        if (! in_array($team, $teams, true)) {
            // Whether there is such a team is not told to whom it is not shown.
            UsageLimits::of($user) === null
                ? abort(404, 'No team of this name has used anything.')
                : abort(403, 'You see some teams only.');
        }
        $measure = $request->query('measure');

        return $this->accounts->of(
            $team,
            $days,
            Clock::seconds(),
            (is_string($measure) ? UsageMeasure::tryFrom($measure) : null) ?? UsageMeasure::InFlight,
        );
    }
}
