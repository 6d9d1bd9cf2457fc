<?php

declare(strict_types=1);

namespace App\Backup\Http;

use App\Backup\Application\BackupBook;
use App\Backup\Application\BackupFindings;
use App\Backup\Application\BackupPage;
use App\Backup\Application\CheckBackup;
use App\Backup\Http\Requests\KeepBackupsRequest;
use App\Backup\Models\BackupCheck;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\MomentStyle;
use App\Platform\Support\OpenFolders;
use Fulcrion\Core\Backup\Backup;
use Fulcrion\Core\Backup\BackupLog;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/**
 * Backups: which there are, and whether their files are as they were written.
 */
final readonly class BackupController
{
    public function __construct(private BackupPage $page, private BackupBook $book, private BackupFindings $findings)
    {
    }

    public function show(Request $request, #[CurrentUser] User $user): View
    {
        $clusters = Cluster::productionFirst()->get();
        $cluster = Cluster::chosen($clusters, $request->query('cluster'));

        return view('backup.backups', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'page' => $cluster === null ? null : $this->page->of($cluster, Clock::microseconds(), $user->zone()),
        ]);
    }

    public function keep(KeepBackupsRequest $request, #[CurrentUser] User $user, Ledger $ledger, string $slug): RedirectResponse
    {
        $cluster = Cluster::named($slug);
        $log = BackupLog::read($request->text());
        $this->book->keep($cluster, $log->backups);
        $this->findings->report($cluster, Clock::microseconds());
        $count = count($log->backups);
        if ($count === 0) {
            return self::back($cluster)->with('failed', 'Nothing was kept: the file tells of no backup. '
                .implode(' ', array_slice($log->complaints, 0, 5)));
        }
        $ledger->record($user, 'told of backups', Quantity::count($count).' of '.$cluster->name, ['cluster' => $cluster->slug]);

        return self::back($cluster)->with('done', ($count === 1 ? '1 backup was' : Quantity::count($count).' backups were').' read.'
            .($log->complaints === [] ? '' : ' Left out: '.implode(' ', array_slice($log->complaints, 0, 5))));
    }

    public function check(#[CurrentUser] User $user, Ledger $ledger, int $backup): RedirectResponse
    {
        [$cluster, $one] = $this->find($backup);
        if (OpenFolders::real($one->place) === null) {
            return self::back($cluster)->with('failed', 'Its files do not lie in a folder this installation opens (FULCRION_LAKE).');
        }
        if (BackupCheck::isOneGoingOn()) {
            return self::back($cluster)->with('failed', 'Another backup is being checked; two at once would take each other’s disk.');
        }
        $check = BackupCheck::query()->create(['backup_id' => $backup, 'state' => 'waiting', 'asked_us' => Clock::microseconds(),
            'asked_by' => $user->name, 'heartbeat_us' => Clock::microseconds()]);
        $ledger->record($user, 'checked a backup', self::named($one), ['cluster' => $cluster->slug, 'check' => $check->id]);
        CheckBackup::dispatch($check->id);

        return self::back($cluster);
    }

    public function progress(Request $request, BackupCheck $check): View|RedirectResponse
    {
        return $request->hasHeader('HX-Request') ? view('backup.check-progress', ['run' => $check])
            : self::back($this->find($check->backup_id)[0]);
    }

    public function stop(BackupCheck $check): RedirectResponse
    {
        $check->askToStop();

        return self::back($this->find($check->backup_id)[0]);
    }

    /** Of what was told by mistake; its files stay where they are. */
    public function forget(#[CurrentUser] User $user, Ledger $ledger, int $backup): RedirectResponse
    {
        [$cluster, $one] = $this->find($backup);
        $this->book->forget($backup);
        $ledger->record($user, 'forgot a backup', self::named($one), ['cluster' => $cluster->slug]);
        $this->findings->report($cluster, Clock::microseconds());

        return self::back($cluster)->with('done', 'The entry of '.self::named($one).' is forgotten. Its files were not touched; sending '
            .'its log again brings the entry back.');
    }

    /**
     * @return array{Cluster, Backup}
     */
    private function find(int $id): array
    {
        [$clusterId, $backup] = $this->book->find($id) ?? abort(404);

        return [Cluster::query()->findOrFail($clusterId), $backup];
    }

    private static function named(Backup $backup): string
    {
        return "“{$backup->plan}” of ".moment($backup->startedUs, MomentStyle::Minute);
    }

    private static function back(Cluster $cluster): RedirectResponse
    {
        return redirect(address('backup.show').'?'.http_build_query(['cluster' => $cluster->slug]));
    }
}
