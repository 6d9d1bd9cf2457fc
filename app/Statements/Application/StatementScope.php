<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\AskedWindow;
use App\Platform\Support\Clock;
use DateTimeZone;
use Fulcrion\Core\Text\Parts;
use Fulcrion\Core\Time\Window;
use Fulcrion\Core\Time\WindowText;
use Illuminate\Http\Request;
use InvalidArgumentException;

/**
 * What a page looks at: one cluster, one window, a filter. All of it stands in the address.
 */
final readonly class StatementScope
{
    public const DEFAULT_WINDOW = 'last 24 hours';

    public function __construct(
        public Cluster $cluster,
        public Window $window,
        public string $windowText,
        public DateTimeZone $zone,
        public OriginFilter $filter = new OriginFilter(),
        public ?Window $against = null,
        public string $againstText = '',
        /** What is wrong with a typed window; the default is shown instead. */
        public ?string $complaint = null,
    ) {
    }

    public static function of(Request $request): ?self
    {
        $user = $request->user();
        $zone = $user instanceof User ? $user->zone() : new DateTimeZone('UTC');
        $cluster = self::cluster($request);
        if ($cluster === null) {
            return null;
        }
        $asked = AskedWindow::of($request, self::DEFAULT_WINDOW, $zone);
        $window = $asked->window;
        $complaint = $asked->complaint;
        $against = null;
        $againstText = self::text($request, 'against');
        if ($againstText !== '') {
            try {
                $against = match ($againstText) {
                    'the window before' => $window->before(),
                    'the day before' => $window->earlier(86_400),
                    'the week before' => $window->earlier(7 * 86_400),
                    default => WindowText::parse($againstText, Clock::seconds(), $zone),
                };
            } catch (InvalidArgumentException $exception) {
                $complaint = $exception->getMessage();
            }
        }

        return new self($cluster, $window, $asked->text, $zone, OriginFilter::of($request), $against, $againstText, $complaint);
    }

    /** @return array<string, string|list<string>> the address of this scope */
    public function query(): array
    {
        return ['cluster' => $this->cluster->slug, 'window' => $this->windowText] +
            ($this->againstText === '' ? [] : ['against' => $this->againstText]) +
            $this->filter->query();
    }

    public function at(Window $window): self
    {
        return new self($this->cluster, $window, WindowText::format($window, $this->zone), $this->zone, $this->filter);
    }

    private static function cluster(Request $request): ?Cluster
    {
        $slug = Parts::first(self::text($request, 'cluster'), (string) $request->session()->get('cluster', ''));
        /** @var Cluster|null $cluster */
        $cluster =
            Cluster::query()->where('slug', $slug)->first() ??
            Cluster::productionFirst()->first();
        if ($cluster !== null) {
            $request->session()->put('cluster', $cluster->slug);
        }

        return $cluster;
    }

    private static function text(Request $request, string $name): string
    {
        $value = $request->query($name);

        return is_string($value) ? mb_substr(trim($value), 0, 200) : '';
    }
}
