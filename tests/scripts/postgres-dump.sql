-- As a dump writes it.
SET statement_timeout = 0;
SELECT pg_catalog.set_config('search_path', '', false);
CREATE ROLE somebody;
CREATE FUNCTION public.shout(word text) RETURNS text LANGUAGE sql AS $_$ select upper($1) || ';' $_$;
CREATE TABLE public.branches (
    id integer NOT NULL,
    name text NOT NULL /* what; /* nested */ it is */
);
ALTER TABLE public.branches OWNER TO somebody;
COPY public.branches (id, name) FROM stdin;
1	North; with a semicolon
2	back\\slash and\ttab
3	\N'quoted'
\.
ALTER TABLE ONLY public.branches ADD CONSTRAINT branches_pkey PRIMARY KEY (id);
\echo done
