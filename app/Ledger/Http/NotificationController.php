<?php

declare(strict_types=1);

namespace App\Ledger\Http;

use App\Ledger\Http\Requests\SubscribeRequest;
use App\Ledger\Ledger;
use App\Ledger\Models\Notification;
use App\Ledger\Models\Subscription;
use App\Ledger\Notifications\Dispatcher;
use App\Platform\Models\User;
use App\Platform\Support\Reachable;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Gate;
use Illuminate\Support\Str;

/**
 * Who is told of findings and incidents, and what was sent.
 */
final readonly class NotificationController
{
    public function __construct(private Ledger $ledger)
    {
    }

    public function index(Request $request, #[CurrentUser] User $user): View
    {
        return view('ledger.outbox', [
            'notifications' => Notification::readableBy($user)
                ->when(
                    is_string($request->query('state')) && $request->query('state') !== '',
                    static fn ($q) => $q->where('state', $request->query('state')),
                )
                ->orderByDesc('id')
                ->simplePaginate(50)
                ->withQueryString(),
            'count' => Notification::readableBy($user)->count(),
            'subscriptions' => Subscription::query()->orderBy('id')->get(),
        ]);
    }

    public function show(Notification $notification): View
    {
        self::authorise($notification);

        return view('ledger.notification', ['notification' => $notification]);
    }

    public function file(Notification $notification, int $attachment): Response
    {
        self::authorise($notification);
        $found = DB::table('notification_files')->where('notification_id', $notification->id)->where('id', $attachment)->first()
            ?? abort(404);

        return response((string) $found->content, 200, [
            'Content-Type' => (string) $found->type,
            'Content-Disposition' => "attachment; filename=\"{$found->name}\"",
        ]);
    }

    private static function authorise(Notification $notification): void
    {
        if ($notification->ability !== null) {
            Gate::authorize($notification->ability);
        }
    }

    public function store(SubscribeRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        if ($data['kind'] === 'webhook') {
            $refusal = Reachable::configured()->refusal((string) parse_url($data['target'], PHP_URL_HOST));
            if ($refusal !== null) {
                return back()
                    ->withInput()
                    ->withErrors(['target' => $refusal]);
            }
        }
        $secret = $data['kind'] === 'webhook' ? Str::random(48) : null;
        $subscription = Subscription::query()->create([
            'kind' => $data['kind'],
            'target' => $data['target'],
            'digest' => $request->boolean('digest'),
            'hears' => $data['hears'] ?? 'findings',
            'secret' => $secret,
            'made_by' => $user->name,
        ]);
        $this->ledger->record($user, 'added a watcher', $subscription->shown(), [
            'kind' => $subscription->kind,
            'digest' => $subscription->digest,
            'hears' => $subscription->hears,
        ]);

        return redirect(address('notification.index'))->with(
            'done',
            $subscription->hears === 'incidents' ? 'From now on one message goes there for each incident, and one when it is over.'
                : 'From now on one message goes there for each new finding, and one when it is solved.',
        )->with('secret', $secret);
    }

    public function remove(#[CurrentUser] User $user, Subscription $subscription): RedirectResponse
    {
        $this->ledger->record($user, 'removed a watcher', $subscription->shown());
        $subscription->delete();

        return redirect(address('notification.index'))->with('done', 'Nothing goes there any more.');
    }

    public function send(Dispatcher $dispatcher): RedirectResponse
    {
        Notification::query()
            ->where('state', 'failed')
            ->update(['state' => 'waiting', 'tries' => 0]);
        Notification::query()->where('state', 'waiting')->update(['retry_us' => null]);

        $sent = $dispatcher->send();

        return redirect(address('notification.index'))->with('done', $sent === 1 ? '1 message went out.' : "{$sent} messages went out.");
    }
}
