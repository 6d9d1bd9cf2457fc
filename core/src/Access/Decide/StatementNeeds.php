<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Privilege;
use Fulcrion\Core\Catalog\HelperName;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Names\TableNames;

/**
 * The privileges a statement takes beside what it reads.
 *
 * @internal
 */
final readonly class StatementNeeds
{
    public function __construct(private Ruling $ruling, private string $cluster, private string $schema)
    {
    }

    /**
     * @param  list<string>  $parts as written
     *
     * @throws Undecidable when no schema is known
     */
    public function path(array $parts, int $at = 0): string
    {
        $name =
            TableNames::resolve($parts, $this->schema) ??
            throw new Undecidable("Write the schema in front of {$parts[0]}, or choose a schema.", $at);

        return ObjectPath::of([$this->cluster, ...$name]);
    }

    /**
     * @throws Undecidable
     */
    public function of(Ast\Statement $s): void
    {
        match (true) {
            $s instanceof Ast\Insert, $s instanceof Ast\Copy => $this->need(Privilege::Insert, $this->path($s->table)),
            $s instanceof Ast\Update => $this->need(Privilege::Update, $this->path($s->table)),
            $s instanceof Ast\Delete => $this->need(Privilege::Delete, $this->path($s->table)),
            $s instanceof Ast\CreateTable, $s instanceof Ast\CreateView, $s instanceof Ast\CreateRollup => $this->create(
                $s->name,
                $s->orReplace,
            ),
            $s instanceof Ast\Refresh => $this->need(Privilege::Alter, $this->path($s->name)),
            $s instanceof Ast\CreateSchema => $this->schema($s),
            $s instanceof Ast\Drop => $this->need(
                Privilege::Drop,
                $s->kind === 'SCHEMA' ? ObjectPath::of([$this->cluster, ...$s->name]) : $this->path($s->name),
            ),
            $s instanceof Ast\Analyze, $s instanceof Ast\Maintain => $this->need(Privilege::Alter, $this->path($s->table)),
            $s instanceof Ast\Rename => array_map(fn (array $pair) => $this->rename($pair[0], $pair[1]), $s->pairs),
            default => $this->ruling->refuse(
                new Refusal(
                    Refusal::CLOSED,
                    $this->cluster,
                    $s instanceof Ast\Privileges
                        ? 'Access is decided by the policy; GRANT and REVOKE are not run for anybody.'
                        : 'This kind of statement is not decided by the policy and not run.',
                ),
            ),
        };
    }

    /**
     * Whatever takes a name over ends what had it before: replacing is dropping too.
     *
     * @param  list<string>  $name
     *
     * @throws Undecidable
     */
    private function create(array $name, bool $replaces): void
    {
        $path = $this->path($name);
        $this->free($path);
        $this->need(Privilege::Create, (string) ObjectPath::parent($path));
        if ($replaces) {
            $this->need(Privilege::Drop, $path);
        }
    }

    private function schema(Ast\CreateSchema $s): void
    {
        $this->free(ObjectPath::of([$this->cluster, $s->name, 'x']));
        $this->need(Privilege::Create, $this->cluster);
    }

    /**
     * @param  list<string>  $name
     *
     * @throws Undecidable
     */
    private function rename(array $name, string $to): void
    {
        $path = $this->path($name);
        $schema = (string) ObjectPath::parent($path);
        $this->free(ObjectPath::child($schema, $to));
        $this->need(Privilege::Alter, $path);
        $this->need(Privilege::Create, $schema);
    }

    /** Names that changes use for what they keep and build are nobody else's. */
    private function free(string $path): void
    {
        [, $schema, $table] = ObjectPath::parts($path);
        if (HelperName::is($schema, $table)) {
            $this->ruling->refuse(
                new Refusal(
                    Refusal::CLOSED,
                    $path,
                    "{$schema}.{$table} is a name that changes use for tables they keep and build; take another one.",
                ),
            );
        }
    }

    private function need(Privilege $privilege, string $path): void
    {
        $schema = count(ObjectPath::parts($path)) > 2 ? (string) ObjectPath::parent($path) : $path;
        foreach ([[Privilege::Use, $schema], [$privilege, $path]] as [$one, $where]) {
            $cause = $this->ruling->reader->missing($one, $where);
            if ($cause !== null) {
                $this->ruling->refuse(new Refusal(Refusal::PRIVILEGE, $where, ucfirst((string) $cause).'.', [$cause], $one->value));
            }
        }
    }
}
