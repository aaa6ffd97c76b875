create table taxon (name text primary key, family text);
