<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Ledger\Ledger;
use App\Ledger\Notifications\Dispatcher;
use App\Ledger\Notifications\OutboxChannel;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Who gets statements of account, and those that were sent, kept as they were.
 */
final readonly class Accounts
{
    public function __construct(
        private TeamAccounts $accounts,
        private AccountFile $files,
        private OutboxChannel $outbox,
        private Ledger $ledger,
        private Dispatcher $dispatcher,
    ) {
    }

    /**
     * @return list<stdClass> with last_month, that was sent last
     */
    public function schedules(): array
    {
        return array_values(
            DB::table('account_schedules')
                ->orderBy('team')
                ->orderBy('recipient')
                ->get(['account_schedules.*', DB::raw('(SELECT MAX(a.month) FROM accounts a WHERE a.team = account_schedules.team AND '
                    .'a.recipient = account_schedules.recipient) AS last_month')])
                ->all(),
        );
    }

    /**
     * @return list<stdClass> without their contents, with the state of the message
     */
    public function sent(int $limit = 100): array
    {
        return array_values(
            DB::table('accounts')
                ->leftJoin('notifications', 'notifications.id', '=', 'accounts.notification_id')
                ->orderByDesc('accounts.id')
                ->limit($limit)
                ->get([
                    'accounts.id', 'team', 'month', 'accounts.recipient', 'sentence', 'made_by', 'accounts.made_us', 'notification_id',
                    'state', 'error',
                ])
                ->all(),
        );
    }

    public function schedule(int $id): ?stdClass
    {
        return DB::table('account_schedules')->where('id', $id)->first();
    }

    /** @return int its number */
    public function plan(string $team, string $recipient, int $day, User $user): int
    {
        $id = DB::table('account_schedules')->insertGetId([
            'team' => $team, 'recipient' => $recipient, 'day' => $day, 'made_by' => $user->name, 'made_us' => Clock::microseconds(),
        ]);
        $this->ledger->record($user, 'planned statements of account', $team, ['to' => $recipient, 'day' => $day]);

        return $id;
    }

    /** Somebody saw a preview: it may go out. */
    public function confirm(stdClass $schedule, User $user): void
    {
        DB::table('account_schedules')
            ->where('id', $schedule->id)
            ->whereNull('confirmed_us')
            ->update(['confirmed_by' => $user->name, 'confirmed_us' => Clock::microseconds()]);
        $this->ledger->record($user, 'let statements of account go out', (string) $schedule->team, ['to' => (string) $schedule->recipient]);
    }

    /** Those that were sent stay. */
    public function end(stdClass $schedule, User $user): void
    {
        DB::table('account_schedules')->where('id', $schedule->id)->delete();
        $this->ledger->record($user, 'ended statements of account', (string) $schedule->team, ['to' => (string) $schedule->recipient]);
    }

    /**
     * One that was sent, as it was.
     *
     * @param  'html'|'pdf'  $document
     * @return array{string, string}|null its content and a name for it
     */
    public function kept(int $id, string $document): ?array
    {
        $kept = DB::table('accounts')->where('id', $id)->first(['team', 'month', $document]);

        return $kept === null ? null : [
            (string) $kept->{$document}, AccountFile::name((string) $kept->team, (string) $kept->month, $document),
        ];
    }

    /** The month that ended last; it is closed when its last day is. */
    public static function month(int $now): Days
    {
        return Days::parse('last month', app(Calendar::class)->shown($now - Calendar::CLOSED_AFTER_SECONDS));
    }

    /**
     * Sends those that are due, each once a month; one nobody has seen a preview of waits.
     *
     * @return int how many went into the outbox
     */
    public function due(int $now): int
    {
        $month = self::month($now);
        $calendar = app(Calendar::class);
        $sent = 0;
        foreach ($this->schedules() as $schedule) {
            $day = $month->to + ((int) $schedule->day - 1) * Days::DAY;
            $isDue = $now >= $calendar->begin($day) && $schedule->confirmed_us !== null;
            // Who was written down after that day gets the next one.
            $isNew = (int) $schedule->confirmed_us >= $calendar->end($day) * 1_000_000;
            if ($isDue && ! $isNew && (string) $schedule->last_month < gmdate('Y-m', $month->from)) {
                $this->send($schedule, $month, $now, 'the schedule');
                $sent++;
            }
        }

        return $sent;
    }

    /**
     * @return string|null state of its message
     */
    public function sendNow(stdClass $schedule, User $user, int $now): ?string
    {
        $id = $this->send($schedule, self::month($now), $now, $user->name, $user);
        $this->dispatcher->send();

        return DB::table('accounts')->join('notifications', 'notifications.id', '=', 'notification_id')->where('accounts.id', $id)
            ->value('state');
    }

    /**
     * @return int number of what was sent
     */
    private function send(stdClass $schedule, Days $month, int $now, string $by, ?User $user = null): int
    {
        $account = $this->accounts->of((string) $schedule->team, $month, $now);
        [$html, $pdf] = [$this->files->html($account), $this->files->pdf($account)];
        $name = static fn (string $ending): string => AccountFile::name($account->team, $account->month(), $ending);

        return DB::transaction(function () use ($schedule, $account, $name, $html, $pdf, $month, $by, $user): int {
            $letter = $this->outbox->write(
                (string) $schedule->recipient,
                new AccountNotification($account->team, $month->describe(), $account->sentence(), [
                    ['name' => $name('pdf'), 'type' => 'application/pdf', 'content' => $pdf],
                    ['name' => $name('html'), 'type' => 'text/html; charset=utf-8', 'content' => $html],
                ]),
            );
            $id = (int) DB::table('accounts')->insertGetId([
                'team' => $account->team,
                'month' => $account->month(),
                'recipient' => (string) $schedule->recipient,
                'sentence' => mb_substr($account->sentence(), 0, 300),
                'made_by' => mb_substr($by, 0, 120),
                'made_us' => Clock::microseconds(),
                'notification_id' => $letter,
                'digest' => hash('sha256', $html),
                'html' => $html,
                'pdf' => $pdf,
            ]);
            $this->ledger->record($user, 'sent a statement of account', $account->team, [
                'month' => $account->month(), 'to' => (string) $schedule->recipient, 'digest' => hash('sha256', $html),
            ]);

            return $id;
        });
    }
}
