<?php

declare(strict_types=1);

namespace App\Access;

use App\Access\Application\AccessAudit;
use App\Access\Application\AccessCatalogReader;
use App\Access\Application\AccessHistory;
use App\Access\Application\PolicyAuthorizer;
use App\Access\Application\PolicyStore;
use App\Access\Application\Provisioner;
use App\Access\Application\PublishedPeople;
use App\Access\Application\PublishedTeams;
use App\Estate\Authorization\QueryAuthorizer;
use App\Estate\Teams\TeamDirectory;
use App\Ledger\Changes\ChangeKind;
use App\Ledger\Changes\ChangeKinds;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Ledger\Models\ProofRecord;
use App\Ledger\Proofs\ProofBody;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\PolicyPeople;
use App\Platform\Support\Role;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    public function register(): void
    {
        // What a request or a job has read of the world must not outlive it.
        foreach ([AccessCatalogReader::class, PolicyStore::class, AccessHistory::class] as $class) {
            $this->app->scoped($class);
        }
        $this->app->bind(QueryAuthorizer::class, PolicyAuthorizer::class);
        $this->app->bind(PolicyPeople::class, PublishedPeople::class);
        $this->app->bind(TeamDirectory::class, PublishedTeams::class);
    }

    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(FindingSources::class, $this->findings(...));
        $this->callAfterResolving(ChangeKinds::class, $this->changes(...));
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Guard, 'access', 'Access', 'access.index'),
            new Page(Bench::Guard, 'try', 'Try as', 'try.show', ability: 'guard'),
            new Page(Bench::Guard, 'draft', 'Draft', 'draft.show', ability: 'guard'),
            new Page(Bench::Guard, 'policy', 'Policy', 'policy.index'),
            new Page(Bench::Guard, 'labels', 'Labels', 'label.index', ability: 'guard'),
            new Page(Bench::Guard, 'review', 'Review', 'review.index', ability: 'guard'),
            new Page(Bench::Guard, 'products', 'Products', 'product.index'),
            new Page(Bench::Guard, 'requests', 'Requests', 'request.index'),
            new Page(Bench::Guard, 'decisions', 'Decisions', 'decision.index'),
        ];
    }

    protected function abilities(): array
    {
        return ['guard' => [Role::Steward, Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('access:audit')->hourlyAt(37)->withoutOverlapping(50);
    }

    private function findings(FindingSources $sources): void
    {
        $review = static fn (Finding $finding): string => address('review.index', ['check' => $finding->rule]);
        $sources->register(new FindingSource(
            AccessAudit::SOURCE,
            'guard',
            'Stewards decide on access.',
            'access.finding-acts',
            home: static fn (Finding $finding): array => ['Review', $review($finding)],
            rule: $review,
        ));
    }

    private function changes(ChangeKinds $kinds): void
    {
        $kinds->register(
            new ChangeKind(
                Provisioner::POLICY,
                Provisioner::class,
                ability: 'guard',
                urgent: true,
                measured: false,
                stepsTitle: 'What was published',
                limitsTitle: 'What the server cannot say',
                address: static fn (): string => address('version.index'),
                undoing: static fn (Change $change): string => ucfirst($change->sealed_inverse[0] ?? 'the version before').
                    ' is put into force again, as a version of its own; the record of this one stays.',
            ),
            new ChangeKind(
                Provisioner::ACCESS,
                Provisioner::class,
                ability: 'guard',
                urgent: true,
                measured: false,
                limitsTitle: 'What the server cannot say',
                address: static fn (): string => address('provisioning.index'),
                shown: static fn (string $sql): string => (string) preg_replace("~'[0-9a-f]{32}'~", "'(key)'", $sql),
            ),
        );
        $kinds->registerBody(
            new ProofBody('access', 'access.proof-policy', static fn (): string => 'both policies were asked the same questions'),
            new ProofBody(
                'written',
                'access.proof-provisioning',
                static fn (ProofRecord $proof): string => $proof->holds
                    ? 'every select gave what the policy says'
                    : 'not every select gave what the policy says: see below',
            ),
        );
    }
}
