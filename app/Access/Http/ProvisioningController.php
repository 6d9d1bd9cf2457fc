<?php

declare(strict_types=1);

namespace App\Access\Http;

use App\Access\Application\Draft;
use App\Access\Application\PolicyStore;
use App\Access\Application\Provisioner;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Ledger\Models\Change;
use App\Platform\Models\User;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Subject;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;

/**
 * The policy in the words of live servers, and their grants in the words of the policy.
 */
final readonly class ProvisioningController
{
    public function __construct(private Provisioner $writer, private PolicyStore $store)
    {
    }

    public function index(): View
    {
        $servers = [];
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::query()->where('connector', 'mariadb')->orderBy('id')->get()->all();
        foreach ($clusters as $cluster) {
            $source = $this->writer->server($cluster);
            $one = ['cluster' => $cluster, 'able' => $source !== null, 'plan' => null, 'held' => null, 'trouble' => null];
            try {
                $one['plan'] = $source === null ? null : $this->writer->plan($cluster);
                $one['held'] = $source?->held();
            } catch (SourceError $error) {
                $one['trouble'] = $error->getMessage();
            }
            $servers[] = $one;
        }

        return view('access.provisioning', [
            'servers' => $servers,
            'number' => $this->store->number(),
            'changes' => Change::query()->where('kind', Provisioner::ACCESS)->orderByDesc('id')->limit(10)->get(),
        ]);
    }

    public function propose(#[CurrentUser] User $user, string $slug): RedirectResponse
    {
        $cluster = Cluster::query()->where('slug', $slug)->where('connector', 'mariadb')->first() ?? abort(404);
        try {
            $change = $this->writer->propose($cluster, $user);
        } catch (SourceError $error) {
            return redirect(address('provisioning.index'))->with('failed', $error->getMessage());
        }

        return redirect(address('change.show', $change->id));
    }

    /** Takes accounts, roles and grants of a server into the draft. */
    public function read(#[CurrentUser] User $user, string $slug, Draft $draft, Ledger $ledger): RedirectResponse
    {
        $cluster = Cluster::query()->where('slug', $slug)->where('connector', 'mariadb')->first() ?? abort(404);
        $source = $this->writer->server($cluster) ?? abort(404);
        try {
            $held = $source->held();
        } catch (SourceError $error) {
            return redirect(address('provisioning.index'))->with('failed', $error->getMessage());
        }
        $document = $draft->document();
        $items = [];
        foreach (['roles' => Kind::Roles, 'accounts' => Kind::People] as $which => $kind) {
            foreach ($held[$which] as $name => $one) {
                $known = $document->find($kind, (string) $name);
                $field = $kind === Kind::Roles ? 'includes' : 'roles';
                $items[] = Item::of(
                    $kind,
                    (string) $name,
                    [$field => array_values(array_unique([...$known?->texts($field) ?? [], ...$one['roles']]))] +
                        ($known->fields ??
                            ($kind === Kind::People
                                ? ['kind' => 'service', 'title' => "Account {$name} of {$cluster->name}"]
                                : ['description' => "Read from {$cluster->name}"])),
                );
                foreach ($one['grants'] as [$privileges, $path]) {
                    $on = ObjectPath::of([$cluster->slug, ...explode('.', $path)]);
                    $items[] = Item::of(Kind::Grants, mb_strcut("{$name} on {$on}", 0, 190), [
                        'effect' => 'allow',
                        'privileges' => array_values(array_unique(['use', ...$privileges])),
                        'on' => $on,
                        'to' => [$kind === Kind::Roles ? Subject::role((string) $name) : Subject::person((string) $name)],
                        'reason' => "as granted on {$cluster->name}",
                    ]);
                }
            }
        }
        $count = 0;
        foreach ($items as $item) {
            if ($item instanceof Item && ($document->find($item->kind, $item->name)?->same($item) ?? false) === false) {
                $draft->put($item, $user);
                $count++;
            }
        }
        $ledger->record($user, 'read the grants of a server', $cluster->name, ['items' => $count]);

        return redirect(address('draft.show'))->with(
            'done',
            $count === 0
                ? "The policy says already what {$cluster->name} grants."
                : "{$count} items say what {$cluster->name} grants. They are in the draft.",
        );
    }
}
