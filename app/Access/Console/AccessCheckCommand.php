<?php

declare(strict_types=1);

namespace App\Access\Console;

use App\Access\Application\Decisions;
use App\Access\Application\PolicyFile;
use App\Access\Application\PolicyStore;
use App\Estate\Models\Cluster;
use Fulcrion\Core\Access\Policy\DocumentCheck;
use Fulcrion\Core\Access\Policy\PolicyProblem;
use Fulcrion\Core\Access\Policy\Subject;
use Illuminate\Console\Command;

/**
 * For pipelines: checks a policy in a file, and what it says to a statement.
 */
final class AccessCheckCommand extends Command
{
    protected $signature = 'access:check
        {file : a policy as YAML or JSON}
        {--as= : a person, or role:NAME}
        {--sql= : a statement to decide on}
        {--cluster= : on which cluster; the production cluster when left out}
        {--schema= : where tables without a schema are looked for}';

    protected $description = 'Checks a policy: ends with 0 when it is sound and the statement is allowed, 1 when refused, 2 when the '
        .'file cannot be used';

    private const REFUSED = 1;

    private const UNUSABLE = 2;

    public function handle(PolicyStore $store, Decisions $decisions): int
    {
        $file = (string) $this->input->getArgument('file');
        $text = is_file($file) ? file_get_contents($file) : false;
        if ($text === false) {
            $this->error("There is no file {$file}.");

            return self::UNUSABLE;
        }
        $document = PolicyFile::read($text);
        if (is_array($document)) {
            foreach ($document as $line) {
                $this->error($line);
            }

            return self::UNUSABLE;
        }
        $policy = $store->compile($document);
        $problems = (new DocumentCheck($document, $policy->catalog, null, $policy->hierarchies))->problems();
        foreach ($problems as $problem) {
            $this->line(($problem->grave ? 'error' : 'warning').': line '.PolicyFile::line($text, $problem).": {$problem}");
        }
        if (array_filter($problems, static fn (PolicyProblem $problem): bool => $problem->grave) !== []) {
            return self::UNUSABLE;
        }
        $this->line("{$document->size()} items, sound.");
        $sql = (string) $this->input->getOption('sql');
        if ($sql === '') {
            return self::SUCCESS;
        }
        $as = (string) $this->input->getOption('as');
        $cluster = Cluster::query()
            ->when($this->option('cluster') !== null, fn ($query) => $query->where('slug', $this->option('cluster')))
            ->where('connector', 'practice')
            ->orderByRaw("role = 'production' DESC")
            ->first();
        if ($as === '' || ! ($cluster instanceof Cluster)) {
            $this->error($as === '' ? 'Say for whom: --as=PERSON.' : 'There is no such practice cluster.');

            return self::UNUSABLE;
        }
        $subject = Subject::isWritten($as) ? $as : Subject::person($as);
        $decision = $decisions->decide($policy, $subject, $cluster, (string) $this->input->getOption('schema'), $sql);
        $this->line("{$as}: {$decision->outcome()}");
        foreach ($decision->isAllowed() ? [(string) $decision->rewritten, ...$decision->notes] : [$decision->sentence()] as $line) {
            $this->line($line);
        }

        return $decision->error !== null ? self::UNUSABLE : ($decision->isAllowed() ? self::SUCCESS : self::REFUSED);
    }
}
