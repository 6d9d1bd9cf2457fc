<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

/**
 * The kinds of items a policy is made of, each with its fields. An item has a name, unique in its kind.
 */
enum Kind: string
{
    case People = 'people';
    case Roles = 'roles';
    case Owners = 'owners';
    case Grants = 'grants';
    case Vocabulary = 'vocabulary';
    case Labels = 'labels';
    case Masks = 'masks';
    case Rules = 'rules';
    case Hierarchies = 'hierarchies';
    case Dimensions = 'dimensions';
    case Scopes = 'scopes';
    case Products = 'products';
    case Releases = 'releases';
    case Settings = 'settings';

    public function one(): string
    {
        return match ($this) {
            self::People => 'person',
            self::Roles => 'role',
            self::Owners => 'owner',
            self::Grants => 'grant',
            self::Vocabulary => 'label key',
            self::Labels => 'label',
            self::Masks => 'mask',
            self::Rules => 'rule',
            self::Hierarchies => 'hierarchy',
            self::Dimensions => 'dimension',
            self::Scopes => 'value scope',
            self::Products => 'data product',
            self::Releases => 'release',
            self::Settings => 'setting',
        };
    }

    public function describe(): string
    {
        return match ($this) {
            self::People => 'people and service accounts, with attributes rules can ask for',
            self::Roles => 'what is given together; who holds a role holds the roles in it',
            self::Owners => 'who answers for an object, and may do everything with it',
            self::Grants => 'privileges given or denied at an object and all below it; a deny wins',
            self::Vocabulary => 'label keys under control: what they mean, which values they take, who may use them',
            self::Labels => 'keys and values on objects, inherited downwards unless replaced',
            self::Masks => 'ways of showing less of a value',
            self::Rules => 'by labels and attributes: deny, hide, mask or filter',
            self::Hierarchies => 'trees of values, read from a table, with the days from which they hold',
            self::Dimensions => 'columns whose values are restricted by value scopes',
            self::Scopes => 'which values of a dimension somebody may see, in detail or in totals',
            self::Products => 'curated sets of views with an owner, a purpose and an audience',
            self::Releases => 'derived tables that are no longer as closed as the tables they came from',
            self::Settings => 'what holds for the whole policy',
        };
    }

    /**
     * @return list<DocumentField>
     */
    public function fields(): array
    {
        return match ($this) {
            self::People => [
                new DocumentField('title', FieldType::Text, 'full name'),
                new DocumentField(
                    'kind',
                    FieldType::Choice,
                    'a person, or an account programs sign in with',
                    choices: ['person', 'service'],
                ),
                new DocumentField('roles', FieldType::References, 'roles held directly', of: self::Roles),
                new DocumentField('attributes', FieldType::Map, 'region, clearance, team or any other key'),
            ],
            self::Roles => [
                new DocumentField('description', FieldType::LongText, 'what it is for'),
                new DocumentField('includes', FieldType::References, 'roles whose holders are also holders of these', of: self::Roles),
            ],
            self::Owners => [new DocumentField('owner', FieldType::Subject, 'a role or a person', true)],
            self::Grants => [
                new DocumentField('effect', FieldType::Choice, 'allow or deny; a deny wins over every allow', true, ['allow', 'deny']),
                new DocumentField(
                    'privileges',
                    FieldType::Choices,
                    'what is given',
                    true,
                    array_map(static fn (Privilege $p): string => $p->value, Privilege::cases()),
                ),
                new DocumentField('on', FieldType::Path, 'the object; all below it inherits', true),
                new DocumentField('to', FieldType::Subjects, 'who gets it', true),
                new DocumentField('except', FieldType::Subjects, 'who does not, though named above'),
                new DocumentField('until', FieldType::Day, 'the last day it holds; empty for ever'),
                new DocumentField('reason', FieldType::Text, 'why'),
            ],
            self::Vocabulary => [
                new DocumentField('description', FieldType::LongText, 'what it says of an object', true),
                new DocumentField('values', FieldType::Texts, 'the values it takes; none means any'),
                new DocumentField('definers', FieldType::Subjects, 'who may change this entry'),
                new DocumentField('assigners', FieldType::Subjects, 'who may put it on objects'),
                new DocumentField(
                    'hue',
                    FieldType::Choice,
                    'how it is drawn',
                    choices: ['verdigris', 'ochre', 'plum', 'slate', 'moss', 'clay'],
                ),
                new DocumentField('shape', FieldType::Choice, 'how it is drawn', choices: ['tab', 'round', 'notch', 'plain']),
            ],
            self::Labels => [
                new DocumentField('on', FieldType::Path, 'the object; all below it inherits', true),
                new DocumentField('key', FieldType::Text, 'the key, as in personal/phone', true),
                new DocumentField('value', FieldType::Text, 'the value'),
                new DocumentField('origin', FieldType::Choice, 'set by a person, or detected', choices: ['set', 'detected']),
                new DocumentField(
                    'state',
                    FieldType::Choice,
                    'a proposed or rejected label has no effect',
                    choices: ['accepted', 'proposed', 'rejected'],
                ),
                new DocumentField('evidence', FieldType::Text, 'what it was detected by'),
            ],
            self::Masks => [
                new DocumentField(
                    'shows',
                    FieldType::Choice,
                    'what is left of the value',
                    true,
                    array_map(static fn (MaskKind $kind): string => $kind->value, MaskKind::cases()),
                ),
                new DocumentField('count', FieldType::Count, 'how many characters are left'),
                new DocumentField('step', FieldType::Text, 'rounded to: a number, or month, quarter or year'),
                new DocumentField('text', FieldType::Text, 'the fixed text, or the expression with the word value in it'),
                new DocumentField('description', FieldType::LongText, 'what it is for'),
            ],
            self::Rules => [
                new DocumentField('description', FieldType::LongText, 'why there is such a rule'),
                new DocumentField('scope', FieldType::Path, 'where it holds', true),
                new DocumentField('for', FieldType::Subjects, 'whom it concerns', true),
                new DocumentField('except', FieldType::Subjects, 'whom it does not'),
                new DocumentField('when', FieldType::Condition, 'on labels and attributes; empty means always'),
                new DocumentField('effect', FieldType::Choice, 'what happens', true, ['deny', 'hide', 'mask', 'filter']),
                new DocumentField('mask', FieldType::Reference, 'for effect mask', of: self::Masks),
                new DocumentField('filter', FieldType::Predicate, 'for effect filter: which rows are left'),
                new DocumentField('off', FieldType::Flag, 'kept, but without effect'),
            ],
            self::Hierarchies => [
                new DocumentField('description', FieldType::LongText, 'what it orders'),
                new DocumentField('table', FieldType::Path, 'where it is read from', true),
                new DocumentField('node', FieldType::Text, 'column with the number of a node', true),
                new DocumentField('parent', FieldType::Text, 'column with the number of the node above', true),
                new DocumentField('name', FieldType::Text, 'column with the name of a node', true),
                new DocumentField('from', FieldType::Text, 'column with the first day a row holds'),
                new DocumentField('to', FieldType::Text, 'column with the last day a row holds'),
            ],
            self::Dimensions => [
                new DocumentField('description', FieldType::LongText, 'what it is'),
                new DocumentField(
                    'columns',
                    FieldType::Map,
                    'columns that carry it; with a hierarchy, each with the column of the tree it is compared with',
                    true,
                ),
                new DocumentField('hierarchy', FieldType::Reference, 'the tree its values stand in', of: self::Hierarchies),
            ],
            self::Scopes => [
                new DocumentField('dimension', FieldType::Reference, 'of which dimension', true, of: self::Dimensions),
                new DocumentField('for', FieldType::Subjects, 'who gets it', true),
                new DocumentField('except', FieldType::Subjects, 'who does not, though named above'),
                new DocumentField('everything', FieldType::Flag, 'all values'),
                new DocumentField('values', FieldType::Texts, 'single values'),
                new DocumentField('ranges', FieldType::Ranges, 'ranges, low..high'),
                new DocumentField('patterns', FieldType::Texts, 'patterns, with % for any text and _ for one character'),
                new DocumentField('branches', FieldType::Texts, 'names of nodes, with all below them'),
                new DocumentField(
                    'level',
                    FieldType::Choice,
                    'detail, or totals only where a query does not break down by the dimension',
                    true,
                    ['detail', 'totals'],
                ),
                new DocumentField('mode', FieldType::Choice, 'refuse what asks for more, or trim it to what is allowed', true, [
                    'refuse',
                    'trim',
                ]),
                new DocumentField('until', FieldType::Day, 'the last day it holds; empty for ever'),
            ],
            self::Products => [
                new DocumentField('title', FieldType::Text, 'its name', true),
                new DocumentField('purpose', FieldType::Text, 'what it is good for', true),
                new DocumentField('description', FieldType::LongText, 'what is in it, how fresh, what to mind'),
                new DocumentField('owner', FieldType::Subject, 'who answers for it', true),
                new DocumentField('contact', FieldType::Text, 'where to ask'),
                new DocumentField('links', FieldType::Texts, 'further reading'),
                new DocumentField('audience', FieldType::References, 'roles it is for', of: self::Roles),
                new DocumentField('views', FieldType::Paths, 'what is in it', true),
                new DocumentField('published', FieldType::Flag, 'whether consumers see it'),
            ],
            self::Releases => [
                new DocumentField('from', FieldType::Paths, 'the tables that no longer close it; empty for all'),
                new DocumentField('reason', FieldType::LongText, 'why it may be seen without them', true),
            ],
            self::Settings => [new DocumentField('value', FieldType::Text, 'its value', true)],
        };
    }

    /** Whether items of this kind are named by the object they are about. */
    public function isNamedByPath(): bool
    {
        return $this === self::Owners || $this === self::Releases;
    }

    public function field(string $name): ?DocumentField
    {
        foreach ($this->fields() as $field) {
            if ($field->name === $name) {
                return $field;
            }
        }

        return null;
    }
}
