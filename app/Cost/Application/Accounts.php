<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Ledger\Ledger;
use App\Ledger\Notifications\OutboxChannel;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Telemetry\Usage\DayFacts;
use Fulcrion\Core\Usage\Days;
use Illuminate\Notifications\AnonymousNotifiable;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Who gets statements of account, and those that were sent, kept as they were.
 */
final readonly class Accounts
{
    /** A month is closed when its last day is. */
    private const PATIENCE_SECONDS = DayFacts::PATIENCE_SECONDS;

    public function __construct(
        private TeamAccounts $accounts,
        private AccountFile $files,
        private OutboxChannel $outbox,
        private Ledger $ledger,
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

    /** The month that ended last. */
    public static function month(int $now): Days
    {
        return Days::parse('last month', $now - self::PATIENCE_SECONDS);
    }

    /**
     * Sends those that are due, each once a month; one nobody has seen a preview of waits.
     *
     * @return int how many went into the outbox
     */
    public function due(int $now): int
    {
        $month = self::month($now);
        $sent = 0;
        foreach ($this->schedules() as $schedule) {
            $day = $month->to + ((int) $schedule->day - 1) * DayFacts::DAY;
            $isDue = $now >= $day && $schedule->confirmed_us !== null;
            // Who was written down after that day gets the next one.
            $isNew = (int) $schedule->confirmed_us >= ($day + DayFacts::DAY) * 1_000_000;
            if ($isDue && ! $isNew && (string) $schedule->last_month < gmdate('Y-m', $month->from)) {
                $this->send($schedule, $month, $now, 'the schedule');
                $sent++;
            }
        }

        return $sent;
    }

    /**
     * @return int number of what was sent
     */
    public function send(stdClass $schedule, Days $month, int $now, string $by, ?User $user = null): int
    {
        $account = $this->accounts->of((string) $schedule->team, $month, $now);
        [$html, $pdf] = [$this->files->html($account), $this->files->pdf($account)];

        return DB::transaction(function () use ($schedule, $account, $html, $pdf, $month, $by, $user): int {
            $letter = $this->outbox->send(
                (new AnonymousNotifiable())->route(OutboxChannel::class, (string) $schedule->recipient),
                new AccountNotification($account->team, $month->describe(), $account->sentence(), [
                    ['name' => AccountFile::name($account, 'pdf'), 'type' => 'application/pdf', 'content' => $pdf],
                    ['name' => AccountFile::name($account, 'html'), 'type' => 'text/html; charset=utf-8', 'content' => $html],
                ]),
            );
            $id = (int) DB::table('accounts')->insertGetId([
                'team' => $account->team,
                'month' => gmdate('Y-m', $month->from),
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
                'month' => gmdate('Y-m', $month->from), 'to' => (string) $schedule->recipient, 'digest' => hash('sha256', $html),
            ]);

            return $id;
        });
    }
}
