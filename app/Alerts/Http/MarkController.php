<?php

declare(strict_types=1);

namespace App\Alerts\Http;

use App\Alerts\Http\Requests\MarkRequest;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Journal;
use Fulcrion\Core\Time\WindowText;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Http\RedirectResponse;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;

/**
 * Times people say something was wrong in.
 */
final readonly class MarkController
{
    public function __construct(private Journal $journal)
    {
    }

    public function add(MarkRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $cluster = Cluster::query()->where('slug', $request->validated('cluster'))->firstOrFail();
        try {
            $span = WindowText::parse((string) $request->validated('when'), Clock::seconds(), $user->zone());
        } catch (InvalidArgumentException $error) {
            return back()->withInput()->withErrors(['when' => $error->getMessage()]);
        }
        if ($span->from >= Clock::seconds()) {
            return back()->withInput()->withErrors(['when' => 'That has not been yet. Say a time that is over, or goes on.']);
        }
        $name = (string) $request->validated('mark');
        DB::table('incident_marks')->insert([
            'cluster_id' => $cluster->id, 'from_at' => $span->from, 'to_at' => min($span->to, Clock::seconds()), 'name' => $name,
            'made_by' => $user->name,
        ]);
        $this->journal->record($user, 'marked an incident', $name, ['cluster' => $cluster->slug]);

        return back()->with('done', "{$name} is marked.");
    }

    public function remove(int $mark, #[CurrentUser] User $user): RedirectResponse
    {
        $name = DB::table('incident_marks')->where('id', $mark)->value('name') ?? abort(404);
        DB::table('incident_marks')->where('id', $mark)->delete();
        $this->journal->record($user, 'took the mark of an incident away', (string) $name);

        return back()->with('done', "{$name} is no mark any more.");
    }
}
