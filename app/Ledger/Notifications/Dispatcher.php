<?php

declare(strict_types=1);

namespace App\Ledger\Notifications;

use App\Ledger\Models\Notification;
use App\Ledger\Models\Subscription;
use App\Platform\Support\Clock;
use App\Platform\Support\Reachable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Mail\Message;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Http;
use Illuminate\Support\Facades\Mail;
use RuntimeException;
use Throwable;

/**
 * Sends what waits in the outbox. Mail stays there to be read: no mail server is assumed. What does not arrive is
 * tried again a minute, five and thirty minutes, two and six hours later.
 */
final readonly class Dispatcher
{
    /** Seconds until it is tried again; where the last one has gone by too, it failed. */
    private const PAUSES = [60, 300, 1_800, 7_200, 21_600];

    private const DEAD_US = 600_000_000;

    public function send(): int
    {
        $sent = 0;
        // What was being sent when its sender was killed is sent again; a receiver may see it twice.
        Notification::query()
            ->where('state', 'sending')
            ->where('made_us', '<', Clock::microseconds() - self::DEAD_US)
            ->update(['state' => 'waiting']);
        /** @var list<Notification> $notifications */
        $notifications = Notification::query()
            ->where('state', 'waiting')
            ->where(static fn (Builder $q) => $q->whereNull('retry_us')->orWhere('retry_us', '<=', Clock::microseconds()))
            ->orderBy('id')
            ->limit(200)
            ->get()
            ->all();
        foreach ($notifications as $notification) {
            // Only one of several servers gets it.
            if (
                Notification::query()
                    ->whereKey($notification->id)
                    ->where('state', 'waiting')
                    ->update(['state' => 'sending']) === 0
            ) {
                continue;
            }
            $notification->refresh();
            try {
                if ($notification->kind === 'webhook') {
                    $subscription = Subscription::query()->find($notification->watcher_id);
                    $this->post($subscription->target ?? $notification->recipient, $notification->body, $subscription);
                } elseif (! self::mails()) {
                    $notification->update([
                        'state' => 'kept',
                        'error' => 'Not sent: no mail server is set up here. It can be read on this page.',
                    ]);

                    continue;
                } else {
                    Mail::raw(
                        $notification->body,
                        static fn (Message $mail): Message => self::attach(
                            $mail->to($notification->recipient)->subject($notification->subject),
                            $notification,
                        ),
                    );
                }
                $notification->update(['state' => 'sent', 'sent_us' => Clock::microseconds(), 'error' => null]);
                $sent++;
            } catch (Throwable $error) {
                $tries = $notification->tries + 1;
                $pause = self::PAUSES[$tries - 1] ?? null;
                $notification->update([
                    'state' => $pause === null ? 'failed' : 'waiting',
                    'tries' => $tries,
                    'retry_us' => $pause === null ? null : Clock::microseconds() + $pause * 1_000_000,
                    'error' => mb_strcut($error->getMessage(), 0, 500),
                ]);
            }
        }

        return $sent;
    }

    private static function attach(Message $mail, Notification $notification): Message
    {
        foreach (DB::table('notification_files')->where('notification_id', $notification->id)->orderBy('id')->get() as $file) {
            $mail->attachData((string) $file->content, (string) $file->name, ['mime' => (string) $file->type]);
        }

        return $mail;
    }

    private static function mails(): bool
    {
        return ! in_array((string) config('mail.default'), ['', 'log', 'array'], true);
    }

    private function post(string $target, string $body, ?Subscription $subscription): void
    {
        $parts = parse_url($target);
        $host = (string) ($parts['host'] ?? '');
        $port = (int) ($parts['port'] ?? (($parts['scheme'] ?? '') === 'https' ? 443 : 80));
        // Called is the address that was looked at, whatever the name means by then.
        $address = Reachable::configured()->address($host);
        $answer = Http::timeout(10)
            ->connectTimeout(5)
            ->withoutRedirecting()
            ->withOptions(['proxy' => '', 'curl' => [CURLOPT_RESOLVE => [trim($host, '[]').":{$port}:{$address}"]]])
            ->withHeaders($subscription?->secret === null ? []
                : MessageSignature::headers($subscription->secret, "subscription-{$subscription->id}", $target, $body, Clock::seconds()))
            ->withBody($body, 'application/json')
            ->post($target);
        if (! $answer->successful()) {
            throw new RuntimeException("The receiver answered {$answer->status()}.");
        }
    }

    /** Makes one letter a watcher out of what was held for the digest. */
    public function digest(): int
    {
        $made = 0;
        foreach (Subscription::query()->where('digest', true)->get() as $subscription) {
            $held = Notification::query()->where('watcher_id', $subscription->id)->where('state', 'held')->orderBy('id')->get();
            if ($held->isEmpty()) {
                continue;
            }
            Notification::query()->create([
                'watcher_id' => $subscription->id,
                'kind' => $subscription->kind,
                'recipient' => mb_strcut($subscription->shown(), 0, 300),
                'subject' => $held->count().' things found or solved since the last digest',
                'body' => $subscription->kind === 'webhook'
                        ? '['.$held->pluck('body')->implode(',').']'
                        : $held->pluck('body')->implode("\n----\n\n"),
                'state' => 'waiting',
                'made_us' => Clock::microseconds(),
            ]);
            Notification::query()
                ->whereIn('id', $held->pluck('id'))
                ->update(['state' => 'digested']);
            $made++;
        }

        return $made;
    }
}
